/**
 * A language model in the binary form of sphinxbase ("Trie Language Model", as Debian's `pocketsphinx-en-us` carries it; by its source
 * `ngram_model_trie.c` and `lm_trie.c`): a name, the order, the number of sequences of each length, tables of quantised weights, the
 * single words with their weights, longer sequences packed into bits, and at last the words as text.
 */
const NAME = 'Trie Language Model';
const COUNTS_AT = NAME.length + 1;
/** A table of 65,536 weights for the probability of each length from two on, and for what follows where nothing is known of the next. */
const TABLE_BYTES = 65_536 * 4;
/** A word: how likely it is, what a sequence costs that is not known, and where those that begin with it are. */
const WORD_BYTES = 12;
const NEXT_AT = 8;

interface Layout {
  readonly view: DataView;
  readonly words: number;
  readonly wordsAt: number;
  /** Where the words begin as text, and their bytes. */
  readonly textAt: number;
}

/** @throws where it is of another form */
function layoutOf(model: Uint8Array): Layout {
  const view = new DataView(model.buffer, model.byteOffset, model.byteLength);
  const fail = (): never => {
    throw new Error('That is no language model of a form that is known.');
  };
  if (model.length < COUNTS_AT || String.fromCharCode(...model.subarray(0, NAME.length)) !== NAME) fail();
  const order = model[NAME.length] as number;
  const wordsAt = COUNTS_AT + order * 4 + 4 + ((order - 2) * 2 + 1) * TABLE_BYTES;
  if (order < 2 || wordsAt + WORD_BYTES > model.length) fail();
  const words = view.getUint32(COUNTS_AT, true);
  // The text is the last of all, each word closed by a zero, with its length before it.
  let textAt = model.length;
  for (let ends = 0; textAt > wordsAt; textAt -= 1) if (model[textAt - 1] === 0 && (ends += 1) > words) break;
  // The first word's beginning is told by the length of all.
  const isText = (at: number): boolean => at >= 4 && view.getUint32(at - 4, true) === model.length - at;
  let at = textAt;
  while (at < Math.min(model.length, textAt + 8) && !isText(at)) at += 1;
  if (!isText(at)) fail();
  return { view, words, wordsAt, textAt: at };
}

/** All words that a model knows. */
export function wordsOfModel(model: Uint8Array): ReadonlySet<string> {
  const { textAt } = layoutOf(model);
  const words = new TextDecoder().decode(model.subarray(textAt)).split('\0');
  return new Set(words.slice(0, -1));
}

/** Weights are logarithms of this base. */
const LOG_BASE = Math.log(1.0001);

/**
 * A model that knows some more words, each as likely as is said (a natural logarithm), wherever it is said: of what stands beside it
 * nothing is known.
 */
export function withWords(model: Uint8Array, words: readonly string[], likely: number): Uint8Array {
  const { textAt, view, words: count, wordsAt } = layoutOf(model);
  // The numbers of words are packed into so many bits as those that there are need: more do not fit.
  if (Math.ceil(Math.log2(count + words.length + 1)) > Math.ceil(Math.log2(count + 1)))
    throw new Error('The language model has no room for so many words.');
  const text = new TextEncoder().encode(words.map((word) => `${word}\0`).join(''));
  const made = new Uint8Array(model.length + words.length * WORD_BYTES + text.length);
  const lastAt = wordsAt + count * WORD_BYTES;
  made.set(model.subarray(0, lastAt));
  const more = new DataView(made.buffer);
  more.setUint32(COUNTS_AT, count + words.length, true);
  words.forEach((_word, n) => {
    const at = lastAt + n * WORD_BYTES;
    more.setFloat32(at, likely / LOG_BASE, true);
    // No longer sequence begins with it: those of the next begin where its own would.
    more.setUint32(at + NEXT_AT, view.getUint32(lastAt + NEXT_AT, true), true);
  });
  made.set(model.subarray(lastAt), lastAt + words.length * WORD_BYTES);
  const textNow = textAt + words.length * WORD_BYTES;
  more.setUint32(textNow - 4, model.length - textAt + text.length, true);
  made.set(text, made.length - text.length);
  return made;
}
