import { GrowingNumbers } from '../search';
import type { Vocabulary } from './vocabulary';

/** How words are written where they are said: with their capitals and stops. It only ever grows, as the vocabulary does. */
export class Forms {
  private readonly ids = new Map<string, number>();
  private readonly texts: string[] = [];
  private readonly words = new GrowingNumbers();
  private flat = new Uint32Array(0);

  constructor(readonly vocabulary: Vocabulary) {}

  add(word: string, text: string): number {
    const key = `${word}\n${text}`;
    let id = this.ids.get(key);
    if (id === undefined) {
      id = this.texts.length;
      this.ids.set(key, id);
      this.texts.push(text);
      this.words.push(this.vocabulary.add(word));
    }
    return id;
  }

  textOf(id: number): string {
    return this.texts[id] as string;
  }

  all(): (readonly [word: number, text: string])[] {
    return this.texts.map((text, id) => [this.words.at(id), text] as const);
  }

  /** The word of each form. */
  get wordOf(): Uint32Array {
    if (this.flat.length !== this.words.length)
      this.flat = Uint32Array.from({ length: this.words.length }, (_unused, at) => this.words.at(at));
    return this.flat;
  }
}
