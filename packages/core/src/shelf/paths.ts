const LONGEST_PATH = 2000;

/** Whether a path, with `/` between its steps, leads only further in, and no other spelling of it means the same place. */
export const isInner = (path: string): boolean =>
  path.length <= LONGEST_PATH &&
  !path.includes('\0') &&
  path.split('/').every((step) => step !== '' && step !== '.' && step !== '..');
