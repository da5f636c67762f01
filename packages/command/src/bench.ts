import { dist, Plain } from './home';

interface Figure {
  readonly name: string;
}

/** The benches, each a bundle of its own beside the command. */
const NAMES = ['slice', 'ingest'] as const;

/** Runs a bench; each figure is one line of JSON. */
export async function bench(name: string | undefined): Promise<void> {
  const known = NAMES.find((each) => each === name);
  if (!known) throw new Plain(`There is no bench “${name ?? ''}”. The benches are: ${NAMES.join(', ')}`);
  // Progress of what the bench starts goes to standard error, so that standard output holds figures only.
  console.log = console.error;
  const module = (await import(dist(`bench-${known}.mjs`))) as Record<
    string,
    (print: (figure: Figure) => void) => Promise<void>
  >;
  await module[known]?.((figure) => process.stdout.write(`${JSON.stringify(figure)}\n`));
}
