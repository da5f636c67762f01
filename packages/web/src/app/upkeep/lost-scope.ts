import { LOST_OF, type LostOf, type LostOriginals } from '@larder/contract';
import { counted } from '../shared/format';

/** What an address says of which originals are meant. */
export interface LostAddress {
  readonly of: string | undefined;
  readonly id: string | undefined;
  readonly folder: string | undefined;
  readonly assets: string | undefined;
}

const SCOPE_WORDS: Readonly<Record<Exclude<LostOf, 'everything' | 'assets'>, string>> = {
  storage: 'on',
  bin: 'in the bin',
  project: 'in the project',
  'string-out': 'in the string-out',
};

const idIn = (text: string | undefined): number | null => {
  const id = Number(text ?? NaN);
  return Number.isSafeInteger(id) && id > 0 ? id : null;
};

/** The originals that an address means; what it says wrongly means nothing. */
export function lostIn({ assets = '', folder = '', id, of: said }: LostAddress): LostOriginals {
  const of = LOST_OF.find((each) => each === said) ?? 'everything';
  const assetIds = of === 'assets' ? assets.split(',').flatMap((each) => idIn(each) ?? []) : [];
  return { of, id: idIn(id), folder, assetIds };
}

/** Which those are, in words; null for all. */
export function scopeWords({ assetIds, folder, id, of }: LostOriginals, named: string | undefined): string | null {
  if (of === 'everything' || (of !== 'assets' && id === null)) return null;
  if (of === 'assets')
    return `Of ${counted(assetIds.length, 'asset')} that ${assetIds.length === 1 ? 'was' : 'were'} chosen.`;
  return `Of what is ${SCOPE_WORDS[of]} “${[named ?? id, ...(folder ? [folder] : [])].join('/')}”.`;
}
