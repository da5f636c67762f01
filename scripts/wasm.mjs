// Translates the inner loops that are written as WebAssembly into the bytes that ship with the sources. Run after changing one.
import { readFileSync, writeFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import wabt from 'wabt';

const core = join(dirname(dirname(fileURLToPath(import.meta.url))), 'packages/core/src');
const { parseWat } = await wabt();
for (const [file, name] of [
  ['search/kernel', 'KERNEL_CODE'],
  ['dialogue/phone-scan', 'PHONE_SCAN_CODE'],
  ['dialogue/phone-stretch', 'PHONE_STRETCH_CODE'],
]) {
  const module = parseWat(`${file}.wat`, readFileSync(join(core, `${file}.wat`), 'utf8'), { simd: true });
  module.validate();
  const lines = Buffer.from(module.toBinary({}).buffer)
    .toString('base64')
    .match(/.{1,100}/g);
  writeFileSync(
    join(core, `${file}-code.ts`),
    `/** What scripts/wasm.mjs made of ${basename(file)}.wat. */\nexport const ${name} = [\n${lines.map((line) => `  '${line}',\n`).join('')}].join('');\n`,
  );
}
