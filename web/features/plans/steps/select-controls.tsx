"use client";
import { labelStates } from "@larder/core/model/item";
import type { Plan } from "@larder/core/plans/plan";
import { useState } from "react";
import { NumberField } from "@/ui/field";
import { Hint, namesIn, Row, ShortText, Tick, type Change } from "./rows";
import { problemOf } from "./problem-of";

const words = { unlabeled: "Unlabeled images", empty: "Empty images", labeled: "Labeled images" };

/** The selection as text; what is no selection stays, marked, and changes nothing. */
function WhereField({ plan, change }: { plan: Plan; change: Change }) {
  const [tried, setTried] = useState<{ text: string; problem: string } | null>(null);
  return (
    <>
      <p className="pb-1">Only images that mean</p>
      <ShortText
        label="Only images that mean"
        value={tried?.text ?? plan.select.where}
        placeholder="every image; or a selection, @saved too"
        problem={tried?.problem}
        className="w-full"
        onCommit={(where) => {
          const next = { ...plan, select: { ...plan.select, where } };
          const problem = problemOf(next);
          setTried(problem ? { text: where, problem } : null);
          if (!problem) change(next);
        }}
      />
    </>
  );
}

export function SelectControls({ plan, change }: { plan: Plan; change: Change }) {
  const { select } = plan;
  const set = (next: Partial<Plan["select"]>) => change({ ...plan, select: { ...select, ...next } });
  return (
    <>
      <Row>
        <WhereField plan={plan} change={change} />
      </Row>
      {[...labelStates].reverse().map((state) => (
        <Row key={state}>
          <Tick
            label={words[state]}
            checked={select.states.includes(state)}
            onChange={(on) =>
              set({ states: on ? [...select.states, state] : select.states.filter((other) => other !== state) })
            }
          />
        </Row>
      ))}
      <Row>
        <NumberField
          label="A class needs images"
          min={0}
          max={1_000_000}
          value={select.floor}
          onChange={(floor) => set({ floor: Math.round(floor) })}
        />
        <Hint>Of a class on fewer, all labels are dropped. 0 keeps every class.</Hint>
      </Row>
      <Row>
        <NumberField
          label="A class takes at most"
          min={0}
          max={10_000_000}
          value={select.cap?.images ?? 0}
          onChange={(images) =>
            set({ cap: images > 0 ? { images: Math.round(images), classes: select.cap?.classes ?? [] } : null })
          }
        />
        {select.cap ? (
          <div className="flex items-center justify-between gap-2 pt-1.5">
            <span className="text-small text-ink-3">of these classes only</span>
            <ShortText
              label="Classes that are capped"
              value={select.cap.classes.join(", ")}
              placeholder="every class"
              onCommit={(text) => set({ cap: select.cap ? { ...select.cap, classes: namesIn(text) } : null })}
            />
          </div>
        ) : (
          <Hint>In drawn order, images of a full class are left out. 0 takes all.</Hint>
        )}
      </Row>
      <Row>
        <NumberField
          label="Images in all"
          min={0}
          max={10_000_000}
          value={select.sample}
          onChange={(sample) => set({ sample: Math.round(sample) })}
        />
        <Hint>So many are drawn, spread over the classes. 0 takes all.</Hint>
      </Row>
    </>
  );
}
