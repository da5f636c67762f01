import { array, boolean, number, object, type InferType } from 'yup';
import type { Asset } from './model';

/**
 * `exact`: all bytes were read, and are the same. `ends`: size, beginning and end are the same, and not all of them were read whole, so
 * they may differ between. `open`: as `ends`, and those that were read differ, so it is not known of which the others are.
 * `equivalent`: the same frames of the same reel in another form. `near`: as long as each other, and nearly the same to look at, or to
 * listen to where there is no picture.
 */
export const TWIN_LIKENESSES = ['exact', 'ends', 'open', 'equivalent', 'near'] as const;
export type TwinLikeness = (typeof TWIN_LIKENESSES)[number];

export const twinListSchema = object({
  offset: number().integer().min(0).default(0),
  limit: number().integer().min(1).max(100).default(25),
}).noUnknown();

const id = number().integer().positive();
/** What is merged in one request is one transaction, for which others wait. */
export const MOST_MERGED = 500;
export const keepTwinsSchema = object({
  groups: array(
    object({
      keep: id.required('Choose which one is kept.'),
      others: array(id.required())
        .min(1, 'Choose what is merged into it.')
        .max(100, 'At most 100 of one recording at once.')
        .required(),
    }).noUnknown(),
  )
    .min(1, 'Choose what is merged.')
    .max(100, 'At most 100 recordings at once.')
    .test(
      'most-merged',
      `At most ${MOST_MERGED} assets are merged at once.`,
      // Looked at before it is known that each of them is one.
      (groups) =>
        ((groups ?? []) as readonly ({ readonly others?: unknown } | null | undefined)[]).reduce(
          (sum, group) => sum + (Array.isArray(group?.others) ? group.others.length : 0),
          0,
        ) <= MOST_MERGED,
    )
    .required(),
}).noUnknown();
export type KeepTwins = InferType<typeof keepTwinsSchema>;

/** Assets that are near each other, and of several recordings all the same; or, with `apart` false, not. */
export const partTwinsSchema = object({
  assetIds: array(id.required())
    .min(2, 'Choose at least two.')
    .max(500, 'At most 500 at once.')
    .required('Choose which are not the same.'),
  apart: boolean().default(true),
}).noUnknown();
export type PartTwins = InferType<typeof partTwinsSchema>;

/** Assets that are of one recording. */
export interface TwinGroup {
  readonly likeness: TwinLikeness;
  /** Of those that are `near`, whether pictures and sound are nearly the same in all of them; null where nothing tells. */
  readonly same: { readonly picture: boolean | null; readonly sound: boolean | null } | null;
  /** Which of them is best kept: one that is there, and most is said of and made with. */
  readonly suggested: number;
  readonly twins: readonly {
    readonly asset: Asset;
    readonly uses: { readonly subclips: number; readonly stringOuts: number };
  }[];
}

export interface TwinList {
  readonly total: number;
  /** Those that take most space first; those that are only near each other behind all others. */
  readonly groups: readonly TwinGroup[];
}
