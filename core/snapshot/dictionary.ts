/** Texts as small numbers: each text once, 0 for none. */
export class Dictionary {
  private readonly codes = new Map<string, number>();
  private readonly texts: string[] = [""];

  codeOf(text: string | null): number {
    if (text === null || text === "") return 0;
    const known = this.codes.get(text);
    if (known !== undefined) return known;
    const code = this.texts.push(text) - 1;
    this.codes.set(text, code);
    return code;
  }

  /** The same texts under the same codes, for more of its own. */
  copy(): Dictionary {
    const copy = new Dictionary();
    for (const text of this.texts) copy.codeOf(text);
    return copy;
  }

  textOf(code: number): string {
    return this.texts[code] ?? "";
  }

  get size(): number {
    return this.texts.length;
  }
}
