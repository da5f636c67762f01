/** Names by numbers, which hold: it only ever grows. */
export class Names {
  private readonly ids = new Map<string, number>();
  private readonly texts: string[] = [];

  add(text: string): number {
    let id = this.ids.get(text);
    if (id === undefined) {
      id = this.texts.length;
      this.ids.set(text, id);
      this.texts.push(text);
    }
    return id;
  }

  find(text: string): number | undefined {
    return this.ids.get(text);
  }

  textOf(id: number): string {
    return this.texts[id] as string;
  }

  all(): readonly string[] {
    return this.texts;
  }
}
