import { dist, Plain } from './home';

interface Figure {
  readonly name: string;
}

type Part = (print: (figure: Figure) => void) => Promise<void>;

/** The benches, each a bundle of its own beside the command. */
export const BENCHES = ['slice', 'ingest', 'logging', 'search', 'dialogue', 'relink'] as const;

/** Runs a bench, or parts of one; each figure is one line of JSON. */
export async function bench(name: string | undefined, parts: readonly string[]): Promise<void> {
  const known = BENCHES.find((each) => each === name);
  if (!known) throw new Plain(`There is no bench “${name ?? ''}”. The benches are: ${BENCHES.join(', ')}`);
  // Progress of what the bench starts goes to standard error, so that standard output holds figures only.
  console.log = console.error;
  const module = (await import(dist(`bench-${known}.mjs`))) as Record<string, Record<string, Part>>;
  const figures = module[known] ?? {};
  // What prints anything but figures is run only where it is asked for.
  const all = { ...figures, ...module['tables'] };
  const unknown = parts.find((part) => !all[part]);
  if (unknown !== undefined)
    throw new Plain(`The bench ${known} has no part “${unknown}”. Its parts are: ${Object.keys(all).join(', ')}`);
  for (const part of parts.length > 0 ? Object.keys(all).filter((each) => parts.includes(each)) : Object.keys(figures))
    await all[part]?.((figure) => process.stdout.write(`${JSON.stringify(figure)}\n`));
}
