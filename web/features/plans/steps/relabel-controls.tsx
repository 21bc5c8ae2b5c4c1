"use client";
import { ownEntry } from "@larder/core/model/own-entry";
import { shapeChoices, type Plan } from "@larder/core/plans/plan";
import { useState } from "react";
import { Button } from "@/ui/button";
import { Choice } from "@/ui/choice";
import { SelectField } from "@/ui/field";
import { SearchField, searchedFrom } from "@/ui/search-field";
import { number } from "@/ui/words";
import { JoinRows, SplitByRows, type SetRelabel } from "./attribute-rows";
import { problemOf } from "./problem-of";
import { Row, ShortText, Tick, type Change, type ClassCount } from "./rows";

const shapeWords: Record<(typeof shapeChoices)[number], string> = {
  "as-they-are": "as they are",
  boxes: "boxes",
  "rotated-boxes": "rotated boxes",
  polygons: "polygons in place of masks",
  masks: "masks in place of polygons",
  "image-classes": "classes of the image",
};

function ClassRows({
  relabel,
  set,
  classes,
}: {
  relabel: Plan["relabel"];
  set: SetRelabel;
  classes: readonly ClassCount[];
}) {
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
  const set: SetRelabel = (next) => change({ ...plan, relabel: { ...relabel, ...next } });
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
