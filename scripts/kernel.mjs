// Translates the counting kernel's text into the bytes that ship with the sources. Run after changing kernel.wat.
import { readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import wabt from 'wabt';

const folder = join(dirname(dirname(fileURLToPath(import.meta.url))), 'packages/core/src/search');
const { parseWat } = await wabt();
const module = parseWat('kernel.wat', readFileSync(join(folder, 'kernel.wat'), 'utf8'), { simd: true });
module.validate();
const { buffer } = module.toBinary({});
const lines = Buffer.from(buffer)
  .toString('base64')
  .match(/.{1,100}/g);
writeFileSync(
  join(folder, 'kernel-code.ts'),
  `/** What scripts/kernel.mjs made of kernel.wat. */\nexport const KERNEL_CODE = [\n${lines.map((line) => `  '${line}',\n`).join('')}].join('');\n`,
);
