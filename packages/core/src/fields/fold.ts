/** Case, accents and width folded together, so that `Écluse`, `ecluse` and `ＥＣＬＵＳＥ` are one word. */
export const fold = (text: string): string =>
  text
    .normalize('NFKD')
    .replace(/\p{M}+/gu, '')
    .toLowerCase();

/** The words of a text, folded: runs of letters and digits. */
export const words = (text: string): string[] => fold(text).match(/[\p{L}\p{N}]+/gu) ?? [];
