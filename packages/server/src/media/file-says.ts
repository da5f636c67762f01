import { BUILT_IN, typedValue, type Verdict } from '@larder/core/fields';
import type { Bext, Ixml } from '@larder/core/interchange/bwf';

/** In the fields that people fill in, each as that field keeps it. */
export interface FileSays {
  readonly position?: string;
  readonly description?: string;
  readonly notes?: string;
  readonly soundroll?: string;
  readonly verdict?: Verdict;
}

/** Lines such as `sSCENE=12`, which recorders put into the description for machines; common practice, no source. */
const FOR_MACHINES = /^[a-z]?[A-Z][A-Z0-9_]*=/;

const descriptionOf = (bext: Bext | null): string =>
  (bext?.description ?? '')
    .split(/\r?\n/)
    .filter((line) => !FOR_MACHINES.test(line))
    .join('\n')
    .trim();

/**
 * What a file itself says in the fields that people fill in, for when it is catalogued: where it was recorded (ISO 6709), and of the
 * sound chunks the description, the note, the roll and whether the take was circled. What a field does not take is left out.
 */
export function fileSays(location: string | null, bext: Bext | null, ixml: Ixml | null): FileSays {
  const texts: readonly (readonly [keyof FileSays, string | null | undefined])[] = [
    ['position', location],
    ['description', descriptionOf(bext)],
    ['notes', ixml?.note],
    ['soundroll', ixml?.tape],
    ['verdict', ixml?.circled ? 'circled' : null],
  ];
  return Object.fromEntries(
    texts.flatMap(([id, text]) => {
      const field = BUILT_IN.byId(id);
      const value = field && typedValue(field, text ?? '');
      return value != null && BUILT_IN.changes.isValidSync({ [id]: value }, { strict: true }) ? [[id, value]] : [];
    }),
  );
}
