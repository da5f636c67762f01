import { soughtPhones, type HeardStretch, type SoughtPhones } from './phone-channel';
import { CHUNK, phoneScan, type PhoneScan } from './phone-scan';
import { stretcher } from './phone-stretch';
import type { Phones } from './phones';

/** With fewer phones nearly everything has something like it. */
export const LEAST_SOUGHT = 5;
/** So many are looked for everywhere, and the rest only behind where these may be: the time hangs on their number. */
const MOST_SCANNED = 24;

/** So many nats must speak for a place to be looked at closer: at 5 one in fifty fewer names are found at five false alarms an hour. */
const LEAST_NATS = 3;
/** So many phones more or less may be heard before and after, at most. */
export const MARGIN = 4;

/**
 * Looks through phones that were heard for some that were said: a name that no recogniser knows. All are gone through in a coarse way
 * that is quick, and where that is promising all ways to have misheard it are weighed.
 */
export class PhoneSearch {
  private readonly sought: SoughtPhones;

  constructor(
    private readonly phones: Phones,
    private readonly scan: PhoneScan = phoneScan(),
  ) {
    this.sought = soughtPhones(phones.subarray(0, MOST_SCANNED));
  }

  /**
   * Tells stretches that may be what is looked for, some of them more than once.
   * @param ends where each speech ends, ascending; the first begins at 0
   */
  each(
    sounds: Uint8Array,
    ends: (speech: number) => number,
    found: (stretch: HeardStretch, speech: number) => void,
  ): void {
    const { length } = this.sought.phones;
    const rest = this.phones.length - length;
    let speech = 0;
    let begins = 0;
    let end = ends(0);
    let first = 0;
    let last = -Infinity;
    const likeliest = stretcher();
    const look = (): void => {
      const from = Math.max(begins, first - length - MARGIN);
      const to = Math.min(end, last + rest + MARGIN);
      found(likeliest(this.phones, sounds, from, to, from === begins), speech);
    };
    this.places(sounds, (at) => {
      // Neighbours are looked at together, so long as it may not have been said twice there.
      if (at <= end && at - last <= MARGIN && at - first < length) {
        last = at;
        return;
      }
      if (last > 0) look();
      while (at > end) {
        begins = end;
        end = ends((speech += 1));
      }
      first = last = at;
    });
    if (last > 0) look();
  }

  /** Where it may end, ascending. */
  private places(sounds: Uint8Array, found: (at: number) => void): void {
    // What ends soon after one chunk begins was seen as a whole in the one before.
    const overlap = this.sought.phones.length + MARGIN;
    let known = 0;
    for (let from = 0; from < sounds.length; from += CHUNK - overlap) {
      const ends = this.scan.ends(this.sought, sounds.subarray(from, from + CHUNK), LEAST_NATS);
      for (let n = 0; n < ends.length; n += 1) {
        const at = from + (ends[n] as number);
        if (at > known) found(at);
      }
      known = from + CHUNK;
    }
  }
}
