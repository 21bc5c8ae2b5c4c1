"use client";
import { ownEntry } from "@larder/core/model/own-entry";
import { shapeChoices, type Plan } from "@larder/core/plans/plan";
import { useState } from "react";
import { Button } from "@/ui/button";
import { Choice } from "@/ui/choice";
import { SelectField } from "@/ui/field";
import { SearchField, searchedFrom } from "@/ui/search-field";
import { number } from "@/ui/words";
import { problemOf } from "./problem-of";
import { namesIn, Row, ShortText, Tick, type Change, type ClassCount } from "./rows";

const shapeWords: Record<(typeof shapeChoices)[number], string> = {
  "as-they-are": "as they are",
  boxes: "boxes",
  "rotated-boxes": "rotated boxes",
  polygons: "polygons in place of masks",
  masks: "masks in place of polygons",
  "image-classes": "classes of the image",
};

type Set = (next: Partial<Plan["relabel"]>) => void;

function ClassRows({ relabel, set, classes }: { relabel: Plan["relabel"]; set: Set; classes: readonly ClassCount[] }) {
  const [sought, setSought] = useState("");
  const shown = classes.filter(({ name }) => name.toLowerCase().includes(sought.trim().toLowerCase()));
  const rename = (name: string, to: string) => {
    const { [name]: _, ...rest } = relabel.rename;
    set({ rename: to === "" || to === name ? rest : { ...rest, [name]: to } });
  };
  const tickAll = (on: boolean) => {
    const names = new Set(shown.map(({ name }) => name));
    const others = relabel.leaveOut.filter((name) => !names.has(name));
    set({ leaveOut: on ? others : [...others, ...names] });
  };
  return (
    <>
      {classes.length > searchedFrom ? (
        <div className="flex items-center gap-2 pb-2">
          <SearchField label="Find a class" value={sought} onChange={setSought} className="h-[26px] min-w-0 flex-1" />
          <Button small look="quiet" onClick={() => tickAll(true)}>
            All
          </Button>
          <Button small look="quiet" onClick={() => tickAll(false)}>
            None
          </Button>
        </div>
      ) : null}
      <p className="flex justify-between pb-1 text-small text-ink-3">
        <span>Tick what goes in</span>
        <span>goes out as</span>
      </p>
      {shown.map((row) => (
        <Row key={row.name}>
          <Tick
            label={row.name}
            checked={!relabel.leaveOut.includes(row.name)}
            onChange={(on) =>
              set({
                leaveOut: on ? relabel.leaveOut.filter((name) => name !== row.name) : [...relabel.leaveOut, row.name],
              })
            }
          >
            <span className="text-ink-2">{number(row.objects)}</span>
            <ShortText
              label={`${row.name} goes out as`}
              value={ownEntry(relabel.rename, row.name) ?? ""}
              placeholder={row.name}
              onCommit={(to) => rename(row.name, to)}
            />
          </Tick>
        </Row>
      ))}
    </>
  );
}

function SplitByRows({ relabel, set }: { relabel: Plan["relabel"]; set: Set }) {
  const put = (at: number, next: Partial<Plan["relabel"]["splitBy"][number]>) =>
    set({ splitBy: relabel.splitBy.map((entry, n) => (n === at ? { ...entry, ...next } : entry)) });
  return (
    <>
      {relabel.splitBy.map((entry, at) => (
        <div key={at} className="flex flex-wrap items-center gap-1.5 pb-1.5">
          <ShortText
            label={`Classes that are split, ${at + 1}`}
            value={entry.classes.join(", ")}
            placeholder="every class"
            className="w-[96px]"
            onCommit={(text) => put(at, { classes: namesIn(text) })}
          />
          <span className="text-small text-ink-3">by</span>
          <ShortText
            label={`Attribute, ${at + 1}`}
            value={entry.attribute}
            className="w-[84px]"
            onCommit={(attribute) => attribute !== "" && put(at, { attribute })}
          />
          <span className="text-small text-ink-3">as</span>
          <ShortText
            label={`Name, ${at + 1}`}
            value={entry.name}
            className="w-[110px]"
            onCommit={(name) => name !== "" && put(at, { name })}
          />
          <Button small look="quiet" onClick={() => set({ splitBy: relabel.splitBy.filter((_, n) => n !== at) })}>
            Remove
          </Button>
        </div>
      ))}
      <Button
        small
        onClick={() =>
          set({ splitBy: [...relabel.splitBy, { attribute: "attribute", classes: [], name: "{class}-{value}" }] })
        }
      >
        Make classes of an attribute
      </Button>
    </>
  );
}

/** Classes joined into one, which each stays in an attribute: the way back from classes of an attribute. */
function JoinRows({ relabel, set }: { relabel: Plan["relabel"]; set: Set }) {
  const put = (at: number, next: Partial<Plan["relabel"]["join"][number]>) =>
    set({ join: relabel.join.map((entry, n) => (n === at ? { ...entry, ...next } : entry)) });
  return (
    <>
      {relabel.join.map((entry, at) => (
        <div key={at} className="flex flex-wrap items-center gap-1.5 pb-2">
          <ShortText
            label={`Classes that are joined, ${at + 1}`}
            value={entry.classes.join(", ")}
            placeholder="roll-dark, roll-pale"
            className="w-[200px]"
            onCommit={(text) => {
              const classes = namesIn(text);
              // A value stays with its class; a new class brings its own name as value.
              const values = classes.map((name) => entry.values[entry.classes.indexOf(name)] ?? name);
              if (classes.length > 0) put(at, { classes, values });
            }}
          />
          <span className="text-small text-ink-3">into</span>
          <ShortText
            label={`Joined into, ${at + 1}`}
            value={entry.into}
            className="w-[84px]"
            onCommit={(into) => into !== "" && put(at, { into })}
          />
          <Button small look="quiet" onClick={() => set({ join: relabel.join.filter((_, n) => n !== at) })}>
            Remove
          </Button>
          <span className="text-small text-ink-3">as</span>
          <ShortText
            label={`Attribute they become, ${at + 1}`}
            value={entry.attribute}
            className="w-[84px]"
            onCommit={(attribute) => attribute !== "" && put(at, { attribute })}
          />
          <span className="text-small text-ink-3">with</span>
          <ShortText
            label={`Values they become, ${at + 1}`}
            value={entry.values.join(", ")}
            placeholder="dark, pale"
            className="w-[150px]"
            onCommit={(text) => {
              // What was a number or yes and no stays one while it reads the same.
              const values = namesIn(text).map((word) => entry.values.find((value) => String(value) === word) ?? word);
              if (values.length === entry.classes.length) put(at, { values });
            }}
          />
        </div>
      ))}
      <Button
        small
        onClick={() =>
          set({
            join: [...relabel.join, { classes: ["class"], into: "class", attribute: "attribute", values: ["class"] }],
          })
        }
      >
        Make an attribute of classes
      </Button>
    </>
  );
}

export function RelabelControls({
  plan,
  change,
  classes,
}: {
  plan: Plan;
  change: Change;
  classes: readonly ClassCount[];
}) {
  const { relabel } = plan;
  const set: Set = (next) => change({ ...plan, relabel: { ...relabel, ...next } });
  const [tried, setTried] = useState<{ text: string; problem: string } | null>(null);
  return (
    <>
      <ClassRows relabel={relabel} set={set} classes={classes} />
      <Row>
        <p className="pb-1">Only objects that mean</p>
        <ShortText
          label="Only objects that mean"
          value={tried?.text ?? relabel.objects}
          placeholder="every object; or share >= 0.1% and not crowd = yes"
          problem={tried?.problem}
          className="w-full"
          onCommit={(objects) => {
            const next = { ...plan, relabel: { ...relabel, objects } };
            const problem = problemOf(next);
            setTried(problem ? { text: objects, problem } : null);
            if (!problem) change(next);
          }}
        />
      </Row>
      <Row>
        <SplitByRows relabel={relabel} set={set} />
      </Row>
      <Row>
        <JoinRows relabel={relabel} set={set} />
      </Row>
      <Row>
        <SelectField
          label="Shapes go out as"
          value={relabel.shapes}
          options={shapeChoices.map((value) => ({ value, label: shapeWords[value] }))}
          onChange={(shapes) => set({ shapes: shapes as Plan["relabel"]["shapes"] })}
        />
      </Row>
      <Row>
        <div className="flex items-center justify-between gap-2">
          <span>Images left with nothing</span>
          <Choice
            label="Images left with nothing"
            value={relabel.emptied}
            onChange={(emptied) => set({ emptied })}
            options={[
              { value: "keep", label: "Keep as empty" },
              { value: "leave-out", label: "Leave out" },
            ]}
          />
        </div>
      </Row>
    </>
  );
}
