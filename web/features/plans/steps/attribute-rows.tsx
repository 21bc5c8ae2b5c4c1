"use client";
/** Classes made of the values of an attribute, and the way back: classes joined into one that become its values. */
import type { Plan } from "@larder/core/plans/plan";
import { useState, type ComponentProps, type ReactNode } from "react";
import { Button } from "@/ui/button";
import { count } from "@/ui/words";
import { namesIn, ShortText } from "./rows";

type Relabel = Plan["relabel"];
export type SetRelabel = (next: Partial<Relabel>) => void;
type SplitBy = Relabel["splitBy"][number];
type Join = Relabel["join"][number];

/**
 * Entries of a plan with one more that is being typed: it comes into the plan once it is whole, so that no plan says what
 * nobody meant.
 */
function useEntries<T>(entries: readonly T[], set: (entries: T[]) => void, isWhole: (entry: T) => boolean) {
  const [draft, setDraft] = useState<T | null>(null);
  const shown = draft === null ? entries : [...entries, draft];
  return {
    shown,
    isTyping: draft !== null,
    begin: setDraft,
    put: (at: number, next: Partial<T>) => {
      const entry = { ...(shown[at] as T), ...next };
      if (at < entries.length) return set(entries.map((other, n) => (n === at ? entry : other)));
      setDraft(isWhole(entry) ? null : entry);
      if (isWhole(entry)) set([...entries, entry]);
    },
    remove: (at: number) => (at < entries.length ? set(entries.filter((_, n) => n !== at)) : setDraft(null)),
  };
}

/** A part of an entry: what it is in a word or two, and the text that says it. */
function TextLine({ words, ...text }: { words: string } & Omit<ComponentProps<typeof ShortText>, "className">) {
  return (
    <>
      <span className="text-small text-ink-3">{words}</span>
      <div>
        <ShortText className="w-full" {...text} />
      </div>
    </>
  );
}

/** What one entry says, a line for each part of it. */
function Entry({ remove, children }: { remove: () => void; children: ReactNode }) {
  return (
    <div className="mb-2 border-l-2 border-rule-strong pl-3">
      <div className="grid grid-cols-[76px_1fr] items-center gap-x-2 gap-y-1.5">{children}</div>
      <Button small look="quiet" className="mt-1 -ml-2" onClick={remove}>
        Remove
      </Button>
    </div>
  );
}

export function SplitByRows({ relabel, set }: { relabel: Relabel; set: SetRelabel }) {
  const { shown, isTyping, begin, put, remove } = useEntries<SplitBy>(
    relabel.splitBy,
    (splitBy) => set({ splitBy }),
    ({ attribute }) => attribute !== "",
  );
  return (
    <>
      {shown.map((entry, at) => (
        <Entry key={at} remove={() => remove(at)}>
          <TextLine
            words="Classes"
            label={`Classes that are split, ${at + 1}`}
            value={entry.classes.join(", ")}
            placeholder="every class"
            onCommit={(text) => put(at, { classes: namesIn(text) })}
          />
          <TextLine
            words="split by"
            label={`Attribute, ${at + 1}`}
            value={entry.attribute}
            placeholder="an attribute"
            onCommit={(attribute) => attribute !== "" && put(at, { attribute })}
          />
          <TextLine
            words="are named"
            label={`Name, ${at + 1}`}
            value={entry.name}
            onCommit={(name) => name !== "" && put(at, { name })}
          />
        </Entry>
      ))}
      {isTyping ? null : (
        <Button small onClick={() => begin({ attribute: "", classes: [], name: "{class}-{value}" })}>
          Make classes of an attribute
        </Button>
      )}
    </>
  );
}

export function JoinRows({ relabel, set }: { relabel: Relabel; set: SetRelabel }) {
  const { shown, isTyping, begin, put, remove } = useEntries<Join>(
    relabel.join,
    (join) => set({ join }),
    ({ classes, into, attribute }) => classes.length > 0 && into !== "" && attribute !== "",
  );
  /** Values that are not one for each class, as they were typed. */
  const [misfit, setMisfit] = useState<{ at: number; text: string } | null>(null);
  return (
    <>
      {shown.map((entry, at) => (
        <Entry
          key={at}
          remove={() => {
            setMisfit(null);
            remove(at);
          }}
        >
          <TextLine
            words="Classes"
            label={`Classes that are joined, ${at + 1}`}
            value={entry.classes.join(", ")}
            placeholder="roll-dark, roll-pale"
            onCommit={(text) => {
              const classes = namesIn(text);
              // A value stays with its class; a new class brings its own name as value.
              const values = classes.map((name) => entry.values[entry.classes.indexOf(name)] ?? name);
              if (classes.length > 0) put(at, { classes, values });
            }}
          />
          <TextLine
            words="become"
            label={`Joined into, ${at + 1}`}
            value={entry.into}
            placeholder="one class"
            onCommit={(into) => into !== "" && put(at, { into })}
          />
          <TextLine
            words="told by"
            label={`Attribute they become, ${at + 1}`}
            value={entry.attribute}
            placeholder="an attribute"
            onCommit={(attribute) => attribute !== "" && put(at, { attribute })}
          />
          <TextLine
            words="which says"
            label={`Values they become, ${at + 1}`}
            value={misfit?.at === at ? misfit.text : entry.values.join(", ")}
            problem={misfit?.at === at ? `One for each: ${count(entry.classes.length, "value")}.` : undefined}
            placeholder="dark, pale"
            onCommit={(text) => {
              // What was a number or yes and no stays one while it reads the same.
              const values = namesIn(text).map((word) => entry.values.find((value) => String(value) === word) ?? word);
              const fits = values.length === entry.classes.length;
              setMisfit(fits ? null : { at, text });
              if (fits) put(at, { values });
            }}
          />
        </Entry>
      ))}
      {isTyping ? null : (
        <Button small onClick={() => begin({ classes: [], into: "", attribute: "", values: [] })}>
          Make an attribute of classes
        </Button>
      )}
    </>
  );
}
