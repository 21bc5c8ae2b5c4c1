"use client";
import { splitNames } from "@larder/core/model/item";
import { splitModes, type Plan, type Together } from "@larder/core/plans/plan";
import type { PlanFlow } from "@larder/server/services/planning/plan-flow";
import { Button } from "@/ui/button";
import { Choice } from "@/ui/choice";
import { NumberField, SelectField } from "@/ui/field";
import { SplitMark } from "@/ui/marks";
import { count, number } from "@/ui/words";
import { problemOf } from "./problem-of";
import { Hint, Row, ShortText, Tick, type Change } from "./rows";

const modeWords: Record<(typeof splitModes)[number], string> = {
  ratio: "by shares",
  counts: "by numbers",
  keep: "as it stands in stock",
  folds: "in folds",
  "by-date": "by day",
};

const standWords = {
  all: "Images that have a split stay in it; the rest is dealt.",
  pinned: "Pinned images stay in their split; all others are dealt anew.",
  none: "Every image is dealt anew, whatever split it has.",
} as const;

const bonds: { value: Extract<Together, string>; label: string }[] = [
  { value: "near-copies", label: "Near-copies" },
  { value: "delivery", label: "One delivery" },
  { value: "day", label: "One day" },
  { value: "camera", label: "One camera" },
];

export function SplitControls({
  plan,
  change,
  flow,
  onDeal,
}: {
  plan: Plan;
  change: Change;
  flow: PlanFlow | undefined;
  onDeal: () => void;
}) {
  const { split } = plan;
  const set = (next: Partial<Plan["split"]>) => {
    const changed = { ...plan, split: { ...split, ...next } };
    if (problemOf(changed) === null) change(changed);
  };
  const stays = splitNames.filter((name) => (flow?.kept[name] ?? 0) > 0);
  return (
    <>
      <Row>
        <SelectField
          label="Images are dealt"
          value={split.mode}
          options={splitModes.map((value) => ({ value, label: modeWords[value] }))}
          onChange={(mode) =>
            set({
              mode: mode as Plan["split"]["mode"],
              ...(mode === "by-date" && !split.dates.val && !split.dates.test
                ? { dates: { val: new Date().toISOString().slice(0, 10) } }
                : {}),
            })
          }
        />
      </Row>
      {split.mode === "keep" ? null : (
        <Row>
          <Choice
            label="Which images are dealt"
            value={split.stand}
            onChange={(stand) => set({ stand })}
            options={[
              { value: "all", label: "Without a split" },
              { value: "pinned", label: "Not pinned" },
              { value: "none", label: "All anew" },
            ]}
          />
          <Hint>
            {standWords[split.stand]}{" "}
            {stays.length > 0
              ? `Kept: ${stays.map((name) => `${number(flow?.kept[name] ?? 0)} in ${name}`).join(", ")}.`
              : "No image keeps a split."}
          </Hint>
        </Row>
      )}
      {split.mode === "keep" ? <Hint>Images without a split stay out of this data set.</Hint> : null}
      {split.mode === "ratio"
        ? splitNames.map((name) => (
            <Row key={name}>
              <div className="flex items-center justify-between">
                <SplitMark split={name} />
                <NumberField
                  label=""
                  name={`${name} share`}
                  unit="%"
                  min={0}
                  max={100}
                  value={split.ratio[name]}
                  onChange={(share) => set({ ratio: { ...split.ratio, [name]: share } })}
                />
              </div>
            </Row>
          ))
        : null}
      {split.mode === "counts"
        ? (["val", "test"] as const).map((name) => (
            <Row key={name}>
              <div className="flex items-center justify-between">
                <SplitMark split={name} />
                <NumberField
                  label=""
                  name={`${name} images`}
                  min={0}
                  max={10_000_000}
                  value={split.counts[name]}
                  onChange={(images) => set({ counts: { ...split.counts, [name]: Math.round(images) } })}
                />
              </div>
            </Row>
          ))
        : null}
      {split.mode === "folds" ? (
        <Row>
          <NumberField
            label="Folds"
            min={2}
            max={100}
            value={split.folds.of}
            onChange={(of) =>
              set({ folds: { of: Math.round(of), this: Math.min(split.folds.this, Math.round(of) - 1) } })
            }
          />
          <div className="h-2" />
          <NumberField
            label="This one, from 0, is val"
            min={0}
            max={split.folds.of - 1}
            value={split.folds.this}
            onChange={(fold) => set({ folds: { ...split.folds, this: Math.round(fold) } })}
          />
          <Hint>The folds of one seed are disjoint and cover everything.</Hint>
        </Row>
      ) : null}
      {split.mode === "by-date"
        ? (["val", "test"] as const).map((name) => (
            <Row key={name}>
              <label className="flex items-center justify-between gap-3">
                <span>
                  <SplitMark split={name} /> from
                </span>
                <input
                  type="date"
                  aria-label={`${name} from day`}
                  value={split.dates[name] ?? ""}
                  onChange={(event) => {
                    const { [name]: _, ...rest } = split.dates;
                    set({ dates: event.target.value === "" ? rest : { ...rest, [name]: event.target.value } });
                  }}
                  className="h-[26px] rounded-md border border-rule-strong bg-sheet px-2"
                />
              </label>
            </Row>
          ))
        : null}
      {split.mode === "ratio" || split.mode === "counts" || split.mode === "folds" ? (
        <Row>
          <p className="pb-1.5">Never torn apart</p>
          <div className="flex flex-col gap-1.5">
            {bonds.map(({ value, label }) => (
              <Tick
                key={value}
                label={label}
                checked={split.together.includes(value)}
                onChange={(on) =>
                  set({
                    together: on ? [...split.together, value] : split.together.filter((other) => other !== value),
                  })
                }
              />
            ))}
            <NamedBond plan={plan} set={set} kind="name" label="Names that match" placeholder="^(\w+)_\d+" />
            <NamedBond plan={plan} set={set} kind="attribute" label="One value of" placeholder="attribute" />
          </div>
          {flow?.together ? (
            <Hint>
              {count(flow.together.groups, "group")} of several images, the largest of {number(flow.together.largest)}
              {flow.together.torn > 0
                ? `; ${number(flow.together.torn)} lie in several splits, because their images stand there.`
                : "; none lies in two splits."}
            </Hint>
          ) : null}
        </Row>
      ) : null}
      <Row>
        <Tick label="Every class in proportion" checked={split.evenly} onChange={(evenly) => set({ evenly })} />
      </Row>
      <Row>
        <NumberField
          label="Keep the splits of version"
          min={0}
          max={1_000_000}
          value={split.like ?? 0}
          onChange={(like) => set({ like: like > 0 ? Math.round(like) : null })}
        />
        <Hint>Its images keep their split, and only newcomers are dealt. 0 goes by none.</Hint>
      </Row>
      <Row>
        <NumberField
          label="Seed"
          min={0}
          max={2_147_483_647}
          value={plan.seed}
          onChange={(seed) => change({ ...plan, seed: Math.round(seed) })}
        />
        <Hint>The same seed deals and draws the same way again.</Hint>
      </Row>
      {split.mode === "keep" ? null : (
        <Row>
          <Button small disabled={!flow} onClick={onDeal}>
            Make these the stock&apos;s own splits
          </Button>
        </Row>
      )}
    </>
  );
}

function NamedBond({
  plan,
  set,
  kind,
  label,
  placeholder,
}: {
  plan: Plan;
  set: (next: Partial<Plan["split"]>) => void;
  kind: "name" | "attribute";
  label: string;
  placeholder: string;
}) {
  const { together } = plan.split;
  const isOne = (bond: Together): bond is Extract<Together, object> => typeof bond === "object" && kind in bond;
  const known = together.find(isOne);
  const value = known ? ((known as Record<string, string>)[kind] ?? "") : "";
  return (
    <div className="flex items-center justify-between gap-2">
      <span>{label}</span>
      <ShortText
        label={label}
        value={value}
        placeholder={placeholder}
        className="w-[150px]"
        onCommit={(text) => {
          const rest = together.filter((bond) => !isOne(bond));
          set({ together: text === "" ? rest : [...rest, { [kind]: text } as Together] });
        }}
      />
    </div>
  );
}
