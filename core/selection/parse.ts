/** Text → tree. The grammar is the one in docs/selection.md; each rule here is a line of it. */
import { EmbeddedActionsParser, EOF, isRecognitionException, type IToken, type TokenType } from "chevrotain";
import { SelectionError } from "./selection-error";
import {
  And,
  Any,
  AtLeast,
  AtMost,
  Close,
  CloseSet,
  Comma,
  Equal,
  Has,
  In,
  Is,
  Less,
  Like,
  More,
  No,
  Not,
  Open,
  OpenSet,
  Or,
  Quoted,
  SetWord,
  textOf,
  To,
  tokenise,
  Unequal,
  Unset,
  vocabulary,
  Whole,
  Word,
} from "./tokens";
import type { FieldName, FieldTest, HasTest, ObjectTree, Operator, Scalar, SelectionTree, Span, Value } from "./tree";

/** Brackets and `not`s one inside another. */
export const deepest = 50;

const spanOf = (token: IToken): Span => ({ at: token.startOffset, length: token.image.length });

function scalarOf(token: IToken): Scalar {
  return { text: textOf(token), quoted: token.tokenType === Quoted, span: spanOf(token) };
}

/** A bare number after `has` is always the count. */
function refuseBareNumber({ text, quoted, span }: Scalar): void {
  if (quoted || !/^\d+$/.test(text)) return;
  const at = (span?.at ?? 0) + 1;
  const message = `"${text}" is a count here: a class is expected after it. A class of that name stands in quotes`;
  throw new SelectionError(message, at, text.length, ["a name", "any", "{"]);
}

/** One part stands for itself. */
const joined = <T extends SelectionTree | ObjectTree>(kind: "and" | "or", parts: T[]): T =>
  parts.length === 1 ? (parts[0] as T) : ({ kind, parts } as unknown as T);

/** The signs between a field and a value. */
const comparisons: [TokenType, Operator][] = [
  [Equal, "="],
  [Unequal, "!="],
  [AtMost, "<="],
  [AtLeast, ">="],
  [Less, "<"],
  [More, ">"],
];

class SelectionParser extends EmbeddedActionsParser {
  private depth = 0;

  constructor() {
    super(vocabulary, { maxLookahead: 3 });
    this.performSelfAnalysis();
  }

  /** Parsing recurses with every bracket: what is deeper than `deepest` is refused before it does. */
  private deeper<T>(token: IToken, inner: () => T): T {
    this.ACTION(() => {
      if (++this.depth > deepest)
        throw new SelectionError(
          `Brackets and "not" stand ${deepest} one inside another at most`,
          token.startOffset + 1,
          token.image.length,
        );
    });
    const result = inner();
    this.ACTION(() => this.depth--);
    return result;
  }

  selection = this.RULE("selection", (): SelectionTree => {
    this.ACTION(() => (this.depth = 0));
    return this.OPTION(() => this.SUBRULE(this.either)) ?? { kind: "all" };
  });

  private either = this.RULE("either", (): SelectionTree => {
    const parts = [this.SUBRULE(this.both)];
    this.MANY(() => {
      this.CONSUME(Or);
      parts.push(this.SUBRULE2(this.both));
    });
    return joined<SelectionTree>("or", parts);
  });

  private both = this.RULE("both", (): SelectionTree => {
    const parts = [this.SUBRULE(this.single)];
    this.MANY(() => {
      this.CONSUME(And);
      parts.push(this.SUBRULE2(this.single));
    });
    return joined<SelectionTree>("and", parts);
  });

  private single = this.RULE("single", (): SelectionTree =>
    this.OR<SelectionTree>([
      {
        ALT: () => {
          const not = this.CONSUME(Not);
          return { kind: "not", part: this.deeper(not, () => this.SUBRULE(this.single)) };
        },
      },
      {
        ALT: () => {
          const open = this.CONSUME(Open);
          const inner = this.deeper(open, () => this.SUBRULE(this.either));
          this.CONSUME(Close);
          return inner;
        },
      },
      { ALT: () => this.SUBRULE(this.has) },
      { ALT: () => this.SUBRULE(this.hasNone) },
      { ALT: () => this.SUBRULE(this.test) },
    ]),
  );

  private has = this.RULE("has", (): HasTest => {
    this.CONSUME(Has);
    const count = this.OPTION(() => this.SUBRULE(this.count)) ?? { least: 1, most: null };
    const objects = this.SUBRULE(this.objects);
    this.ACTION(() => objects.classes?.forEach(refuseBareNumber));
    return { kind: "has", ...count, ...objects };
  });

  private hasNone = this.RULE("hasNone", (): HasTest => {
    this.CONSUME(No);
    return { kind: "has", least: 0, most: 0, ...this.SUBRULE(this.objects) };
  });

  private count = this.RULE("count", (): Pick<HasTest, "least" | "most"> =>
    this.OR([
      {
        ALT: () => {
          const least = this.CONSUME(Whole);
          let most: IToken | null = least;
          this.OPTION(() => {
            this.CONSUME(To);
            // A number after the dots is the other end; a class that is called by a number stands in quotes.
            most = this.OPTION2(() => this.CONSUME2(Whole)) ?? null;
          });
          return { least: Number(least.image), most: most === null ? null : Number(most.image) };
        },
      },
      {
        ALT: () => {
          this.CONSUME2(To);
          return { least: 0, most: Number(this.CONSUME3(Whole).image) };
        },
      },
    ]),
  );

  private objects = this.RULE("objects", (): Pick<HasTest, "classes" | "where"> => {
    const classes = this.OR([
      {
        ALT: () => {
          this.CONSUME(Any);
          return null;
        },
      },
      { ALT: () => [this.SUBRULE(this.name)] },
      {
        ALT: () => {
          const names: Scalar[] = [];
          this.CONSUME(OpenSet);
          this.AT_LEAST_ONE_SEP({ SEP: Comma, DEF: () => names.push(this.SUBRULE2(this.name)) });
          this.CONSUME(CloseSet);
          return names;
        },
      },
    ]);
    const where = this.OPTION(() => {
      const open = this.CONSUME(Open);
      const parts: ObjectTree[] = [];
      this.deeper(open, () =>
        this.AT_LEAST_ONE_SEP2({ SEP: Comma, DEF: () => parts.push(this.SUBRULE(this.objectEither)) }),
      );
      this.CONSUME(Close);
      return parts.length > 0 ? joined<ObjectTree>("and", parts) : null;
    });
    return { classes, where: where ?? null };
  });

  private objectEither = this.RULE("objectEither", (): ObjectTree => {
    const parts = [this.SUBRULE(this.objectBoth)];
    this.MANY(() => {
      this.CONSUME(Or);
      parts.push(this.SUBRULE2(this.objectBoth));
    });
    return joined<ObjectTree>("or", parts);
  });

  private objectBoth = this.RULE("objectBoth", (): ObjectTree => {
    const parts = [this.SUBRULE(this.objectSingle)];
    this.MANY(() => {
      this.CONSUME(And);
      parts.push(this.SUBRULE2(this.objectSingle));
    });
    return joined<ObjectTree>("and", parts);
  });

  private objectSingle = this.RULE("objectSingle", (): ObjectTree =>
    this.OR<ObjectTree>([
      {
        ALT: () => {
          const not = this.CONSUME(Not);
          return { kind: "not", part: this.deeper(not, () => this.SUBRULE(this.objectSingle)) };
        },
      },
      {
        ALT: () => {
          const open = this.CONSUME(Open);
          const inner = this.deeper(open, () => this.SUBRULE(this.objectEither));
          this.CONSUME(Close);
          return inner;
        },
      },
      { ALT: () => this.SUBRULE(this.test) },
    ]),
  );

  private test = this.RULE("test", (): FieldTest => {
    const field = this.SUBRULE(this.field);
    return this.OR<FieldTest>([
      {
        ALT: () => {
          this.CONSUME(Is);
          const set = this.OR2([
            { ALT: () => this.CONSUME(SetWord) && true },
            { ALT: () => this.CONSUME(Unset) && false },
          ]);
          return { kind: "known", field, set };
        },
      },
      {
        ALT: () => {
          this.CONSUME(In);
          const values: Value[] = [];
          this.CONSUME(OpenSet);
          this.AT_LEAST_ONE_SEP({ SEP: Comma, DEF: () => values.push(this.SUBRULE(this.value)) });
          this.CONSUME(CloseSet);
          return { kind: "compare", field, operator: "in", values };
        },
      },
      {
        ALT: () => {
          this.CONSUME(Like);
          return { kind: "compare", field, operator: "like", values: [this.SUBRULE(this.scalar)] };
        },
      },
      {
        ALT: () => {
          const operator = this.OR3(comparisons.map(([type, sign]) => ({ ALT: () => this.CONSUME(type) && sign })));
          return { kind: "compare", field, operator, values: [this.SUBRULE2(this.value)] };
        },
      },
    ]);
  });

  private field = this.RULE("field", (): FieldName => {
    const first = this.SUBRULE(this.name);
    const named = this.OPTION({
      GATE: () => !first.quoted && first.text.toLowerCase() === "field",
      DEF: () => this.CONSUME(Quoted),
    });
    if (!named) return { name: first.text, attribute: false, ...(first.span ? { span: first.span } : {}) };
    const { text, span } = this.ACTION(() => scalarOf(named)) ?? first;
    return { name: text, attribute: true, ...(span ? { span } : {}) };
  });

  private name = this.RULE("name", (): Scalar => {
    const token = this.OR([{ ALT: () => this.CONSUME(Word) }, { ALT: () => this.CONSUME(Quoted) }]);
    return this.ACTION(() => scalarOf(token)) ?? { text: "", quoted: false };
  });

  private scalar = this.RULE("scalar", (): Scalar => {
    const token = this.OR([
      { ALT: () => this.CONSUME(Word) },
      { ALT: () => this.CONSUME(No) },
      { ALT: () => this.CONSUME(Quoted) },
    ]);
    return this.ACTION(() => scalarOf(token)) ?? { text: "", quoted: false };
  });

  private value = this.RULE("value", (): Value =>
    this.OR<Value>([
      {
        ALT: () => {
          const from = this.SUBRULE(this.scalar);
          let range: Value | null = null;
          this.OPTION(() => {
            const dots = this.CONSUME(To);
            const to = this.OPTION2(() => this.SUBRULE2(this.scalar)) ?? null;
            range = this.ACTION(() => {
              const at = from.span?.at ?? 0;
              const end = to?.span ? to.span.at + to.span.length : dots.startOffset + 2;
              return { from, to, span: { at, length: end - at } };
            });
          });
          return range ?? from;
        },
      },
      {
        ALT: () => {
          const dots = this.CONSUME2(To);
          const to = this.SUBRULE3(this.scalar);
          return this.ACTION(() => {
            const end = to.span ? to.span.at + to.span.length : dots.startOffset + 2;
            return { from: null, to, span: { at: dots.startOffset, length: end - dots.startOffset } };
          });
        },
      },
    ]),
  );
}

const parser = new SelectionParser();

/** What may stand somewhere, in words; words of one kind are said once. */
const typeWords = new Map<TokenType, string>([
  [Word, "a name"],
  [Quoted, "a name"],
  [Whole, "a number"],
  [And, "and"],
  [Or, "or"],
  [Not, "not"],
  [Has, "has"],
  [No, "no"],
  [Any, "any"],
  [In, "in"],
  [Like, "like"],
  [Is, "is"],
  [SetWord, "set"],
  [Unset, "unset"],
  [Open, "("],
  [Close, ")"],
  [OpenSet, "{"],
  [CloseSet, "}"],
  [Comma, ","],
  [To, ".."],
  ...comparisons,
  [EOF, "the end"],
]);

/** What may follow these tokens, as it would be typed; names are "a name". */
export function expectedAfter(tokens: IToken[]): string[] {
  const types = parser.computeContentAssist("selection", tokens).map(({ nextTokenType }) => nextTokenType);
  return [...new Set(types.flatMap((type) => typeWords.get(type) ?? []))];
}

function listed(words: readonly string[]): string {
  return words.length < 2 ? words.join("") : `${words.slice(0, -1).join(", ")} or ${words.at(-1)}`;
}

/** Parses a text; an empty one selects everything. Throws a SelectionError that points at the place and says what may stand there. */
export function parseSelection(text: string): SelectionTree {
  const tokens = tokenise(text);
  parser.input = tokens;
  const tree = parser.selection();
  const [error] = parser.errors;
  if (!error) return tree;
  if (!isRecognitionException(error)) throw error;
  const { token } = error;
  const atEnd = token.tokenType === EOF || Number.isNaN(token.startOffset);
  const before = atEnd ? tokens : tokens.filter(({ startOffset }) => startOffset < token.startOffset);
  const expected = expectedAfter(before).filter((word) => word !== "the end");
  const at = atEnd ? text.trimEnd().length + 1 : token.startOffset + 1;
  const wanted = expected.length === 0 ? "" : `: ${listed(expected)} is expected`;
  throw new SelectionError(
    atEnd ? `The selection ends too early${wanted}` : `"${token.image}" cannot stand here${wanted}`,
    at,
    atEnd ? 1 : token.image.length,
    expected,
  );
}
