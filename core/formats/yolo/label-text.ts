/** A label file in the making, as bytes: numbers put together as texts took longer than all else about them. */

const [space, lineFeed, nought, point] = [0x20, 0x0a, 0x30, 0x2e];
/** So many bytes are more than any number takes with the space before it. */
const longestNumber = 340;

export class LabelText {
  private bytes = new Uint8Array(1 << 16);
  private length = 0;

  /** Begins a line with its class number. */
  begin(classNumber: number): void {
    this.ascii(String(classNumber));
  }

  /** A space and a number, as it is. */
  plain(value: number): void {
    this.ascii(` ${value}`);
  }

  /** A space and a number with ten decimals. */
  share(value: number): void {
    const units = Math.round(value * 1e10);
    if (!(units >= 0 && units < 1e10)) {
      this.ascii(` ${value.toFixed(10)}`);
      return;
    }
    this.room();
    const { bytes, length } = this;
    bytes[length] = space;
    bytes[length + 1] = nought;
    bytes[length + 2] = point;
    const high = Math.floor(units / 1e5);
    this.fiveDigits(high, length + 3);
    this.fiveDigits(units - high * 1e5, length + 8);
    this.length = length + 13;
  }

  endLine(): void {
    this.room();
    this.bytes[this.length++] = lineFeed;
  }

  /** All that was written since it was last taken. */
  drain(): Uint8Array {
    const text = this.bytes.slice(0, this.length);
    this.length = 0;
    return text;
  }

  private fiveDigits(value: number, at: number): void {
    let left = value | 0;
    for (let i = at + 4; i >= at; i--) {
      const tenth = (left / 10) | 0;
      this.bytes[i] = nought + left - tenth * 10;
      left = tenth;
    }
  }

  private ascii(text: string): void {
    this.room();
    for (let i = 0; i < text.length; i++) this.bytes[this.length++] = text.charCodeAt(i);
  }

  /** Makes room for one more number. */
  private room(): void {
    if (this.length + longestNumber <= this.bytes.length) return;
    const larger = new Uint8Array(this.bytes.length * 2);
    larger.set(this.bytes);
    this.bytes = larger;
  }
}
