/**
 * Reads elements of a COCO `annotations` list from their bytes straight into columns. What most rows hold (numbers,
 * a box, rings of numbers) is read here, several times as fast as by making objects of it; any other row is parsed
 * by JSON.parse. Grammar of RFC 8259; decimals come out as JSON.parse gives them.
 */
import { exactDigits, powersOfTen } from "../decimals";
import type { RowReader } from "../json-elements";
import type { AnnotationStore } from "./annotation-store";

const quote = 0x22;
const comma = 0x2c;
const openBrace = 0x7b;
const closeBrace = 0x7d;
const openBracket = 0x5b;
const closeBracket = 0x5d;
const backslash = 0x5c;

/** The keys of a plain row, as their bytes, each with a bit of its own. */
const keys = ["id", "image_id", "category_id", "bbox", "area", "segmentation", "iscrowd"].map((name) =>
  new TextEncoder().encode(name),
);
const [idKey, imageKey, categoryKey, boxKey, areaKey, ringsKey, crowdKey] = [0, 1, 2, 3, 4, 5, 6];

/** So many digits fit 31 bits whatever they are. */
const smallDigits = 9;

export class AnnotationRows implements RowReader {
  private bytes: Uint8Array = new Uint8Array(0);
  private at = 0;
  /**
   * `bytes[end]` is 0, which nothing takes, so that no reading goes past it: one that did would make all of them slow.
   */
  private end = 0;
  private numbers = new Float64Array(256);
  private readonly decoder = new TextDecoder("utf-8");

  /** `refused` hears of each element that names no image. */
  constructor(
    private readonly store: AnnotationStore,
    private readonly refused: () => void,
  ) {}

  take(bytes: Uint8Array, from: number, to: number): { at: number; wantsMore: boolean } {
    this.bytes = bytes;
    this.end = to;
    let start = from;
    for (;;) {
      this.at = start;
      this.blanks();
      if (this.at >= to) return { at: start, wantsMore: true };
      if (this.bytes[this.at] !== openBrace) return { at: start, wantsMore: false };
      const first = this.at;
      this.store.begin();
      let end = this.plainRow() ? this.followed() : -1;
      if (end >= 0) {
        if (!this.store.end()) this.refused();
      } else {
        this.store.takeBack();
        const close = this.closing(first);
        if (close < 0) return { at: start, wantsMore: true };
        this.at = close + 1;
        end = this.followed();
        if (end < 0) return { at: start, wantsMore: this.at >= to };
        let element: unknown;
        try {
          element = JSON.parse(this.decoder.decode(bytes.subarray(first, close + 1)));
        } catch {
          return { at: start, wantsMore: false };
        }
        if (!this.store.add(element)) this.refused();
      }
      start = end;
    }
  }

  private blanks(): void {
    let byte = this.bytes[this.at];
    while (byte === 0x20 || byte === 0x0a || byte === 0x0d || byte === 0x09) byte = this.bytes[++this.at];
  }

  /** Goes past `byte` and blanks around it; false where something else stands there. */
  private past(byte: number): boolean {
    this.blanks();
    if (this.bytes[this.at] !== byte) return false;
    this.at++;
    this.blanks();
    return true;
  }

  /** The index after the comma that follows; −1 where there is none. */
  private followed(): number {
    this.blanks();
    return this.bytes[this.at] === comma ? this.at + 1 : -1;
  }

  /** Says a row whose every value is plain to the store; false where it is not, or not whole. */
  private plainRow(): boolean {
    let seen = 0;
    let key = -1;
    this.at++;
    this.blanks();
    for (;;) {
      key = this.key(key);
      // A key that comes twice counts by its last value; that is rare enough to be left to JSON.parse.
      if (key < 0 || (seen & (1 << key)) !== 0 || !this.past(0x3a) || !this.value(key)) return false;
      seen |= 1 << key;
      this.blanks();
      const byte = this.bytes[this.at++];
      if (byte === closeBrace) break;
      if (byte !== comma) return false;
      this.blanks();
    }
    return true;
  }

  /**
   * The number of the key that stands here; −1 where it is none of a plain row's. Rows of one file mostly have theirs
   * in one order, so the one after `before` is tried first.
   */
  private key(before: number): number {
    const { bytes } = this;
    if (bytes[this.at] !== quote) return -1;
    const start = this.at + 1;
    for (let tried = 1; tried <= keys.length; tried++) {
      const number = (before + tried) % keys.length;
      const name = keys[number] as Uint8Array;
      let i = 0;
      while (i < name.length && bytes[start + i] === name[i]) i++;
      if (i < name.length || bytes[start + i] !== quote) continue;
      this.at = start + i + 1;
      return number;
    }
    return -1;
  }

  private value(key: number): boolean {
    switch (key) {
      case idKey:
        return this.id() !== null;
      case imageKey: {
        const id = this.id();
        if (id === null) return false;
        this.store.ofImage(id);
        return true;
      }
      case categoryKey: {
        const id = this.id();
        if (id === null) return false;
        this.store.ofCategory(id);
        return true;
      }
      case boxKey:
        return this.box();
      case areaKey: {
        const area = this.number();
        this.store.area(area);
        return !Number.isNaN(area);
      }
      case crowdKey:
        return this.number() === 0;
      case ringsKey:
        return this.rings();
      default:
        return false;
    }
  }

  /** A number, or a text of plain ASCII; null for anything else. */
  private id(): number | string | null {
    if (this.bytes[this.at] !== quote) {
      const value = this.number();
      return Number.isNaN(value) ? null : value;
    }
    let text = "";
    for (let i = this.at + 1; ; i++) {
      const byte = this.bytes[i];
      if (byte === quote) {
        this.at = i + 1;
        return text;
      }
      if (byte === undefined || byte < 0x20 || byte > 0x7e || byte === backslash) return null;
      text += String.fromCharCode(byte);
    }
  }

  private box(): boolean {
    if (this.bytes[this.at] !== openBracket || this.ring() !== 4) return false;
    const [x, y, width, height] = this.numbers as unknown as [number, number, number, number];
    this.store.box(x, y, width, height);
    return true;
  }

  private rings(): boolean {
    if (!this.past(openBracket)) return false;
    if (this.bytes[this.at] === closeBracket) {
      this.at++;
      return true;
    }
    for (;;) {
      if (this.bytes[this.at] !== openBracket) return false;
      const length = this.ring();
      if (length < 0) return false;
      this.store.ring(this.numbers, length);
      this.blanks();
      const byte = this.bytes[this.at++];
      if (byte === closeBracket) return true;
      if (byte !== comma) return false;
      this.blanks();
    }
  }

  /** Reads a list of numbers into `numbers`; returns how many, −1 where it is none. */
  private ring(): number {
    const { bytes } = this;
    let length = 0;
    let i = this.at + 1;
    for (;;) {
      let byte = bytes[i] as number;
      while (byte === 0x20 || byte === 0x0a || byte === 0x0d || byte === 0x09) byte = bytes[++i] as number;
      if (byte === closeBracket && length === 0) break;
      // Short decimals without a sign, which nearly all are, are read here with small integers only.
      const first = i;
      let digits = 0;
      for (byte -= 0x30; byte >= 0 && byte <= 9; byte = (bytes[++i] as number) - 0x30)
        digits = (digits * 10 + byte) | 0;
      let count = i - first;
      const leadingNought = count > 1 && bytes[first] === 0x30;
      let decimals = -1;
      if (bytes[i] === 0x2e && count > 0) {
        const point = i;
        for (byte = (bytes[++i] as number) - 0x30; byte >= 0 && byte <= 9; byte = (bytes[++i] as number) - 0x30)
          digits = (digits * 10 + byte) | 0;
        decimals = i - point - 1;
        count += decimals;
      }
      byte = bytes[i] as number;
      let value: number;
      if (
        (byte === comma || byte === closeBracket) &&
        count > 0 &&
        count <= smallDigits &&
        !leadingNought &&
        decimals !== 0
      )
        value = decimals > 0 ? digits / (powersOfTen[decimals] as number) : digits;
      else {
        this.at = first;
        value = this.number();
        if (Number.isNaN(value)) return -1;
        this.blanks();
        i = this.at;
        byte = bytes[i] as number;
      }
      if (length === this.numbers.length) this.grow();
      this.numbers[length++] = value;
      if (byte === closeBracket) break;
      if (byte !== comma) return -1;
      i++;
    }
    this.at = i + 1;
    return length;
  }

  private grow(): void {
    const larger = new Float64Array(this.numbers.length * 2);
    larger.set(this.numbers);
    this.numbers = larger;
  }

  /** A JSON number; NaN where there is none. */
  private number(): number {
    const { bytes } = this;
    const start = this.at;
    let i = start;
    const negative = bytes[i] === 0x2d;
    if (negative) i++;
    let byte = bytes[i] as number;
    const firstDigit = i;
    let mantissa = 0;
    while (byte >= 0x30 && byte <= 0x39) {
      mantissa = mantissa * 10 + (byte - 0x30);
      byte = bytes[++i] as number;
    }
    let digits = i - firstDigit;
    // JSON has no number that begins with a point, or with a nought before other digits.
    if (digits === 0 || (digits > 1 && bytes[firstDigit] === 0x30)) return NaN;
    let decimals = 0;
    if (byte === 0x2e) {
      const point = i;
      byte = bytes[++i] as number;
      while (byte >= 0x30 && byte <= 0x39) {
        mantissa = mantissa * 10 + (byte - 0x30);
        byte = bytes[++i] as number;
      }
      decimals = i - point - 1;
      if (decimals === 0) return NaN;
      digits += decimals;
    }
    this.at = i;
    if (byte === 0x65 || byte === 0x45) return this.withExponent(start);
    if (digits > exactDigits) return this.slowly(start);
    if (decimals > 0) mantissa /= powersOfTen[decimals] as number;
    return negative ? -mantissa : mantissa;
  }

  private withExponent(start: number): number {
    this.at++;
    if (this.bytes[this.at] === 0x2b || this.bytes[this.at] === 0x2d) this.at++;
    const first = this.at;
    while ((this.bytes[this.at] as number) >= 0x30 && (this.bytes[this.at] as number) <= 0x39) this.at++;
    return this.at === first ? NaN : this.slowly(start);
  }

  private slowly(start: number): number {
    return Number(this.decoder.decode(this.bytes.subarray(start, this.at)));
  }

  /** The index of the brace that closes the one at `first`; −1 where it has not come yet. */
  private closing(first: number): number {
    const { bytes, end } = this;
    let depth = 0;
    for (let i = first; i < end; i++) {
      const byte = bytes[i];
      if (byte === quote) {
        i++;
        while (i < end && bytes[i] !== quote) i += bytes[i] === backslash ? 2 : 1;
      } else if (byte === openBrace || byte === openBracket) depth++;
      else if (byte === closeBrace || byte === closeBracket) {
        depth--;
        if (depth === 0) return i;
      }
    }
    return -1;
  }
}
