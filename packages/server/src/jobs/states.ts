import { UNDERWAY } from '@larder/contract';

/** Of a row of `job`, in SQL: whether it waits or is at work. */
export const IS_UNDERWAY = `state IN ('${UNDERWAY.join(`', '`)}')`;
