"use client";
import { isOneOf, isSomeOf, newOpStep, type AugmentStep, type OpStep } from "@larder/core/plans/augmentations";
import type { Plan } from "@larder/core/plans/plan";
import { ArrowDown, ArrowUp, X } from "lucide-react";
import { Choice } from "@/ui/choice";
import { NumberField } from "@/ui/field";
import { count } from "@/ui/words";
import { Hint, Row, Tick, type Change } from "../steps/rows";
import { Chance, OpSentence } from "./op-line";
import { OpPicker } from "./op-picker";
import { hasRange } from "./range-steps";

function LineActions({
  at,
  of,
  label,
  move,
  remove,
}: {
  at: number;
  of: number;
  label: string;
  move: (by: number) => void;
  remove: () => void;
}) {
  const look =
    "grid size-[22px] place-items-center rounded-sm text-ink-3 hover:bg-well hover:text-ink disabled:opacity-30";
  return (
    <span className="flex shrink-0">
      <button
        type="button"
        aria-label={`Move ${label} up`}
        className={look}
        disabled={at === 0}
        onClick={() => move(-1)}
      >
        <ArrowUp size={13} />
      </button>
      <button
        type="button"
        aria-label={`Move ${label} down`}
        className={look}
        disabled={at === of - 1}
        onClick={() => move(1)}
      >
        <ArrowDown size={13} />
      </button>
      <button type="button" aria-label={`Remove ${label}`} className={look} onClick={remove}>
        <X size={13} />
      </button>
    </span>
  );
}

function moved<T>(list: readonly T[], at: number, by: number): T[] {
  const next = [...list];
  const [item] = next.splice(at, 1);
  next.splice(at + by, 0, item as T);
  return next;
}

function GroupLines({ list, put }: { list: readonly OpStep[]; put: (list: OpStep[]) => void }) {
  return (
    <div className="border-l-2 border-rule pl-3">
      {list.map((step, at) => (
        <div key={at} className="flex items-start justify-between gap-2 py-1">
          <OpSentence step={step} put={(next) => put(list.map((other, n) => (n === at ? next : other)))} />
          <LineActions
            at={at}
            of={list.length}
            label={step.op}
            move={(by) => put(moved(list, at, by))}
            remove={() => list.length > 1 && put(list.filter((_, n) => n !== at))}
          />
        </div>
      ))}
      <OpPicker label="Add to these" onPick={(name) => put([...list, newOpStep(name)])} />
    </div>
  );
}

function Line({ step, put }: { step: AugmentStep; put: (step: AugmentStep) => void }) {
  if (isOneOf(step))
    return (
      <div className="min-w-0 flex-1">
        <p className="flex flex-wrap items-center gap-2 pb-1">
          <b className="font-semibold">One of these</b>
          <Chance chance={step.chance} label="One of these" onChange={(chance) => put({ ...step, chance })} />
        </p>
        <GroupLines list={step.oneOf} put={(oneOf) => put({ ...step, oneOf })} />
      </div>
    );
  if (isSomeOf(step))
    return (
      <div className="min-w-0 flex-1">
        <p className="flex flex-wrap items-center gap-2 pb-1">
          <b className="font-semibold">
            {step.someOf[0]} to {step.someOf[1]} of these
          </b>
          <Chance chance={step.chance} label="Some of these" onChange={(chance) => put({ ...step, chance })} />
        </p>
        <GroupLines
          list={step.ops}
          put={(ops) =>
            put({ ...step, ops, someOf: [Math.min(step.someOf[0], ops.length), Math.min(step.someOf[1], ops.length)] })
          }
        />
      </div>
    );
  return <OpSentence step={step} put={put} />;
}

const nameOf = (step: AugmentStep) => (isOneOf(step) ? "one of these" : isSomeOf(step) ? "some of these" : step.op);

export function AugmentControls({
  plan,
  change,
  unchanged,
  line,
  onLine,
}: {
  plan: Plan;
  change: Change;
  unchanged: number | undefined;
  /** The line whose range is shown beside; null where the whole mix is. */
  line: number | null;
  onLine: (line: number | null) => void;
}) {
  const { augment } = plan;
  const set = (next: Partial<Plan["augment"]>) => change({ ...plan, augment: { ...augment, ...next } });
  const add = (step: AugmentStep) => set({ do: [...augment.do, step], ...(augment.copies === 0 ? { copies: 1 } : {}) });
  return (
    <>
      <Row>
        <NumberField
          label="Copies an image"
          min={0}
          max={100}
          value={augment.copies}
          onChange={(copies) => set({ copies: Math.round(copies) })}
        />
        <div className="pt-2">
          <Tick
            label="The image itself goes out too"
            checked={augment.original}
            onChange={(original) => set({ original })}
          />
        </div>
      </Row>
      <div role="list" aria-label="Augmentations, in the order they run">
        {augment.do.map((step, at) => (
          <div role="listitem" key={at} className="flex items-start justify-between gap-2 border-t border-rule py-2">
            <Line step={step} put={(next) => set({ do: augment.do.map((other, n) => (n === at ? next : other)) })} />
            {hasRange(step) ? (
              <button
                type="button"
                aria-pressed={line === at}
                aria-label={`Show the range of ${nameOf(step)}`}
                onClick={() => onLine(line === at ? null : at)}
                className={`h-[22px] shrink-0 rounded-sm px-1.5 text-[12px] ${line === at ? "bg-act text-act-ink" : "text-act hover:bg-well"}`}
              >
                range
              </button>
            ) : null}
            <LineActions
              at={at}
              of={augment.do.length}
              label={nameOf(step)}
              move={(by) => set({ do: moved(augment.do, at, by) })}
              remove={() => set({ do: augment.do.filter((_, n) => n !== at) })}
            />
          </div>
        ))}
      </div>
      <div className="flex flex-wrap gap-2 border-t border-rule py-2">
        <OpPicker onPick={(name) => add(newOpStep(name))} />
        <OpPicker label="One of several" onPick={(name) => add({ oneOf: [newOpStep(name)], chance: 1 })} />
      </div>
      <Row>
        <Tick
          label="Rare classes more often"
          checked={augment.rare !== null}
          onChange={(on) => set({ rare: on ? { share: 0.05, most: 4 } : null })}
        />
        {augment.rare ? (
          <div className="flex flex-col gap-1.5 pt-2">
            <NumberField
              label="on less than, of the images"
              unit="%"
              min={0}
              max={100}
              value={Number((augment.rare.share * 100).toFixed(2))}
              onChange={(share) => set({ rare: { most: augment.rare?.most ?? 4, share: share / 100 } })}
            />
            <NumberField
              label="at most so many times"
              min={1}
              max={100}
              value={augment.rare.most}
              onChange={(most) => set({ rare: { share: augment.rare?.share ?? 0.05, most: Math.round(most) } })}
            />
          </div>
        ) : null}
      </Row>
      {augment.copies > 0 || augment.rare ? (
        <Row>
          <p className="pb-1.5">Copies that nothing changed</p>
          <Choice
            label="Copies that nothing changed"
            value={augment.unchanged}
            onChange={(value) => set({ unchanged: value })}
            options={[
              { value: "leave-out", label: "leave out" },
              { value: "keep", label: "send out" },
            ]}
          />
          <Hint>
            {unchanged === undefined
              ? ""
              : `${count(unchanged, "copy", "copies")} would be the very image again: ${augment.unchanged === "keep" ? "they go out all the same" : "they do not go out"}.`}
          </Hint>
        </Row>
      ) : null}
      <Hint>Copies are made of training images only; val and test stay as they are.</Hint>
    </>
  );
}
