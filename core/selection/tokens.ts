/** The words and signs of the selection language. */
import { createToken, Lexer, type IToken, type TokenType } from "chevrotain";
import { SelectionError } from "./selection-error";

/** Runs of anything that is no blank, no sign and not the start of `..`. */
export const Word = createToken({ name: "Word", pattern: /(?:(?!\.\.)[^\s(){},"=<>!])+/, line_breaks: false });

/** What may stand as a value without quotes: a word, or `no`. */
const keyword = (name: string, pattern: RegExp) => createToken({ name, pattern, longer_alt: Word });

export const And = keyword("And", /and/i);
export const Or = keyword("Or", /or/i);
export const Not = keyword("Not", /not/i);
export const Has = keyword("Has", /has/i);
export const No = keyword("No", /no/i);
export const Any = keyword("Any", /any/i);
export const In = keyword("In", /in/i);
export const Like = keyword("Like", /like/i);
export const Is = keyword("Is", /is/i);
export const Unset = keyword("Unset", /unset/i);
export const SetWord = keyword("SetWord", /set/i);
/** A whole number: after `has` a count, anywhere else a word like others. */
export const Whole = createToken({ name: "Whole", pattern: /\d+/, longer_alt: Word, categories: [Word] });

export const Quoted = createToken({ name: "Quoted", pattern: /"(?:[^"\\]|\\["\\])*"/, line_breaks: true });
export const Open = createToken({ name: "Open", pattern: "(" });
export const Close = createToken({ name: "Close", pattern: ")" });
export const OpenSet = createToken({ name: "OpenSet", pattern: "{" });
export const CloseSet = createToken({ name: "CloseSet", pattern: "}" });
export const Comma = createToken({ name: "Comma", pattern: "," });
export const To = createToken({ name: "To", pattern: ".." });
export const Unequal = createToken({ name: "Unequal", pattern: "!=" });
export const AtMost = createToken({ name: "AtMost", pattern: "<=" });
export const AtLeast = createToken({ name: "AtLeast", pattern: ">=" });
export const Less = createToken({ name: "Less", pattern: "<" });
export const More = createToken({ name: "More", pattern: ">" });
export const Equal = createToken({ name: "Equal", pattern: "=" });
const Blank = createToken({ name: "Blank", pattern: /\s+/, group: Lexer.SKIPPED, line_breaks: true });

const keywords = [And, Or, Not, Has, No, Any, In, Like, Is, Unset, SetWord];
const signs = [Open, Close, OpenSet, CloseSet, Comma, To, Unequal, AtMost, AtLeast, Less, More, Equal];

/** In the order in which they are tried; keywords give way to longer words. */
export const vocabulary: TokenType[] = [Blank, Quoted, ...keywords, Whole, ...signs, Word];

const lexer = new Lexer(vocabulary, { positionTracking: "onlyOffset" });

export const longestText = 20_000;

/** Cuts a text into tokens. Throws a SelectionError at the first sign that belongs to none. */
export function tokenise(text: string): IToken[] {
  if (text.length > longestText)
    throw new SelectionError(
      `A selection has ${longestText.toLocaleString("en-US")} characters at most; this one has ${text.length.toLocaleString("en-US")}`,
      longestText + 1,
      text.length - longestText,
    );
  const { tokens, errors } = lexer.tokenize(text);
  const [error] = errors;
  if (!error) return tokens;
  const sign = text[error.offset] ?? "";
  if (sign === '"') {
    const escape = /\\[^"\\]/.exec(text.slice(error.offset + 1));
    const closed = /^"(?:[^"\\]|\\.)*"/s.test(text.slice(error.offset));
    throw new SelectionError(
      closed && escape
        ? 'Inside quotes a backslash stands before " or \\ alone'
        : "The quotes that open here are not closed",
      error.offset + 1,
      text.length - error.offset,
      ['"'],
    );
  }
  throw new SelectionError(`"${sign}" cannot stand alone; "not equal" is written !=`, error.offset + 1, 1, ["!="]);
}

/** A text in quotes, and what stands in the quotes of a token; any other token is its own text. */
export const quote = (text: string) => `"${text.replace(/["\\]/g, "\\$&")}"`;
export const textOf = ({ tokenType, image }: IToken) =>
  tokenType === Quoted ? image.slice(1, -1).replace(/\\(["\\])/g, "$1") : image;

const bareKeywords = new Set(["and", "or", "not", "has", "no", "any", "in", "like", "is", "set", "unset"]);

/** Whether a text can stand as a word without quotes; as a value, `no` can too. */
export function standsBare(text: string, { asValue = false } = {}): boolean {
  if (text === "" || text.includes("..") || /[\s(){},"=<>!]/.test(text)) return false;
  const lower = text.toLowerCase();
  return !bareKeywords.has(lower) || (asValue && lower === "no");
}
