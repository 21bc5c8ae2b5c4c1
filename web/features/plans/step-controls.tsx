"use client";
import { ownEntry } from "@larder/core/model/own-entry";
import type { Plan } from "@larder/core/plans/plan";
import type { PlanStep } from "@larder/core/plans/flow";
import { labelStates, splitNames, type Split } from "@larder/core/model/item";
import type { ForeseenLosses, PlanFlow } from "@larder/server/services/plans";
import { Checkbox } from "radix-ui";
import { Check } from "lucide-react";
import { useState, type ReactNode } from "react";
import { Button } from "@/ui/button";
import { Choice } from "@/ui/choice";
import { NumberField } from "@/ui/field";
import { FindingMark, SplitMark } from "@/ui/marks";
import { SearchField, searchedFrom } from "@/ui/search-field";
import { count, number } from "@/ui/words";

type Change = (plan: Plan) => void;
type ClassCount = { name: string; images: number; objects: number };

function Row({ children }: { children: ReactNode }) {
  return <div className="border-t border-rule py-2 first:border-t-0">{children}</div>;
}

function Tick({
  label,
  checked,
  onChange,
  children,
}: {
  label: string;
  checked: boolean;
  onChange: (checked: boolean) => void;
  children?: ReactNode;
}) {
  return (
    <div className="flex items-center gap-2.5">
      <Checkbox.Root
        aria-label={label}
        checked={checked}
        onCheckedChange={(next) => onChange(next === true)}
        className="grid size-4 shrink-0 place-items-center rounded-[3px] border border-rule-strong bg-sheet data-[state=checked]:border-act data-[state=checked]:bg-act data-[state=checked]:text-act-ink"
      >
        <Checkbox.Indicator>
          <Check size={12} strokeWidth={3} />
        </Checkbox.Indicator>
      </Checkbox.Root>
      <button
        type="button"
        tabIndex={-1}
        onClick={() => onChange(!checked)}
        className="min-w-0 flex-1 truncate text-left"
        title={label}
      >
        {label}
      </button>
      {children}
    </div>
  );
}

function SelectControls({ plan, change }: { plan: Plan; change: Change }) {
  const words = { unlabeled: "Unlabeled images", empty: "Empty images", labeled: "Labeled images" };
  return (
    <>
      {[...labelStates].reverse().map((state) => (
        <Row key={state}>
          <Tick
            label={words[state]}
            checked={plan.select.states.includes(state)}
            onChange={(on) =>
              change({
                ...plan,
                select: {
                  ...plan.select,
                  states: on ? [...plan.select.states, state] : plan.select.states.filter((other) => other !== state),
                },
              })
            }
          />
        </Row>
      ))}
    </>
  );
}

function RenameField({ name, value, onCommit }: { name: string; value: string; onCommit: (value: string) => void }) {
  const [text, setText] = useState(value);
  return (
    <input
      aria-label={`${name} goes out as`}
      value={text}
      placeholder={name}
      onChange={(event) => setText(event.target.value)}
      onBlur={() => onCommit(text.trim())}
      onKeyDown={(event) => event.key === "Enter" && onCommit(text.trim())}
      className="h-[24px] w-[118px] rounded-md border border-rule bg-sheet px-2 text-[12.5px] outline-offset-0"
    />
  );
}

function RelabelControls({ plan, change, classes }: { plan: Plan; change: Change; classes: ClassCount[] }) {
  const { relabel } = plan;
  const rename = (name: string, to: string) => {
    const { [name]: _, ...rest } = relabel.rename;
    change({ ...plan, relabel: { ...relabel, rename: to === "" || to === name ? rest : { ...rest, [name]: to } } });
  };
  const [sought, setSought] = useState("");
  const shown = classes.filter(({ name }) => name.toLowerCase().includes(sought.trim().toLowerCase()));
  const tickAll = (on: boolean) => {
    const names = new Set(shown.map(({ name }) => name));
    const others = relabel.leaveOut.filter((name) => !names.has(name));
    change({ ...plan, relabel: { ...relabel, leaveOut: on ? others : [...others, ...names] } });
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
      {shown.map((row) => {
        const out = relabel.leaveOut.includes(row.name);
        return (
          <Row key={row.name}>
            <Tick
              label={row.name}
              checked={!out}
              onChange={(on) =>
                change({
                  ...plan,
                  relabel: {
                    ...relabel,
                    leaveOut: on
                      ? relabel.leaveOut.filter((name) => name !== row.name)
                      : [...relabel.leaveOut, row.name],
                  },
                })
              }
            >
              <span className="text-ink-2">{number(row.objects)}</span>
              <RenameField
                key={ownEntry(relabel.rename, row.name) ?? ""}
                name={row.name}
                value={ownEntry(relabel.rename, row.name) ?? ""}
                onCommit={(to) => rename(row.name, to)}
              />
            </Tick>
          </Row>
        );
      })}
      <Row>
        <div className="flex items-center justify-between gap-2">
          <span>Images left with nothing</span>
          <Choice
            label="Images left with nothing"
            value={relabel.emptied}
            onChange={(emptied) => change({ ...plan, relabel: { ...relabel, emptied } })}
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

const standWords = {
  all: "Images that have a split stay in it; the rest is dealt.",
  pinned: "Pinned images stay in their split; all others are dealt anew.",
  none: "Every image is dealt anew, whatever split it has.",
} as const;

function SplitControls({
  plan,
  change,
  kept,
}: {
  plan: Plan;
  change: Change;
  kept: Record<Split, number> | undefined;
}) {
  const { split } = plan;
  const stays = splitNames.filter((name) => (kept?.[name] ?? 0) > 0);
  return (
    <>
      <Row>
        <Choice
          label="Which images are dealt"
          value={split.mode === "keep" ? "keep" : split.stand}
          onChange={(value) =>
            change({
              ...plan,
              split: value === "keep" ? { ...split, mode: "keep" } : { ...split, mode: "ratio", stand: value },
            })
          }
          options={[
            { value: "all", label: "Without a split" },
            { value: "pinned", label: "Not pinned" },
            { value: "none", label: "All anew" },
            { value: "keep", label: "None" },
          ]}
        />
        <p className="pt-1.5 text-small text-ink-3">
          {split.mode === "keep"
            ? "Splits stay as they are in stock; images without one stay out of this data set."
            : standWords[split.stand]}{" "}
          {stays.length > 0
            ? `Kept: ${stays.map((name) => `${number(kept?.[name] ?? 0)} in ${name}`).join(", ")}.`
            : "No image keeps a split."}
        </p>
      </Row>
      {split.mode === "ratio" ? (
        <>
          {splitNames.map((name) => (
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
                  onChange={(share) =>
                    change({ ...plan, split: { ...split, ratio: { ...split.ratio, [name]: share } } })
                  }
                />
              </div>
            </Row>
          ))}
          <Row>
            <NumberField
              label="Seed"
              unit=""
              min={0}
              max={2147483647}
              value={split.seed}
              onChange={(seed) => change({ ...plan, split: { ...split, seed: Math.round(seed) } })}
            />
          </Row>
          <p className="pt-2 text-small text-ink-3">
            Every class is spread in proportion. The same seed deals the same way again.
          </p>
        </>
      ) : null}
    </>
  );
}

function PrepareControls({ plan, change }: { plan: Plan; change: Change }) {
  const { resize } = plan.prepare;
  const set = (next: Plan["prepare"]["resize"]) => change({ ...plan, prepare: { resize: next } });
  const current = resize ?? { mode: "fit" as const, width: 640, height: 640 };
  return (
    <>
      <Row>
        <Choice
          label="Size"
          value={resize?.mode ?? "none"}
          onChange={(mode) => set(mode === "none" ? null : { ...current, mode })}
          options={[
            { value: "none", label: "as it is" },
            { value: "fit", label: "inside the frame" },
            { value: "stretch", label: "distorted" },
          ]}
        />
      </Row>
      {resize ? (
        <>
          <Row>
            <NumberField
              label="Width"
              unit="px"
              min={16}
              max={8192}
              value={resize.width}
              onChange={(width) => set({ ...resize, width: Math.round(width) })}
            />
          </Row>
          <Row>
            <NumberField
              label="Height"
              unit="px"
              min={16}
              max={8192}
              value={resize.height}
              onChange={(height) => set({ ...resize, height: Math.round(height) })}
            />
          </Row>
          <p className="pt-2 text-small text-ink-3">
            {resize.mode === "fit"
              ? "Each picture keeps its shape and ends at the frame's nearer side."
              : "Every picture gets exactly this size; shapes may change."}{" "}
            Labels move along.
          </p>
        </>
      ) : null}
    </>
  );
}

function AugmentControls({ plan, change, unchanged }: { plan: Plan; change: Change; unchanged: number | undefined }) {
  const { augment } = plan;
  return (
    <>
      <Row>
        <NumberField
          label="Copies an image"
          unit=""
          min={0}
          max={20}
          value={augment.copies}
          onChange={(copies) =>
            change({
              ...plan,
              augment: {
                ...augment,
                copies: Math.round(copies),
                flipSideways:
                  augment.flipSideways === 0 && copies > 0 && augment.copies === 0 ? 0.5 : augment.flipSideways,
              },
            })
          }
        />
      </Row>
      <Row>
        <NumberField
          label="Flip sideways"
          unit="%"
          min={0}
          max={100}
          step={5}
          value={Math.round(augment.flipSideways * 100)}
          onChange={(share) => change({ ...plan, augment: { ...augment, flipSideways: share / 100 } })}
        />
      </Row>
      {augment.copies > 0 ? (
        <Row>
          <p className="pb-1.5">Copies that nothing changed</p>
          <Choice
            label="Copies that nothing changed"
            value={augment.unchanged}
            onChange={(value) => change({ ...plan, augment: { ...augment, unchanged: value } })}
            options={[
              { value: "leave-out", label: "leave out" },
              { value: "keep", label: "send out" },
            ]}
          />
          <p className="pt-1.5 text-small text-ink-3">
            {unchanged === undefined
              ? ""
              : `${count(unchanged, "copy", "copies")} would be the very image again: ${augment.unchanged === "keep" ? "they go out all the same" : "they do not go out"}.`}
          </p>
        </Row>
      ) : null}
      <p className="pt-2 text-small text-ink-3">
        Copies are made of training images only; val and test stay as they are. Left and right keypoints change places
        in a flip.
      </p>
    </>
  );
}

/** What a loss takes away, in a word or two. */
function lossWords(code: string): string {
  const words = new Map([
    ["loss-polygon", "outlines"],
    ["loss-mask", "masks or holes"],
    ["loss-keypoints", "keypoints"],
    ["loss-rotation", "rotation"],
    ["loss-attributes", "attributes or flags"],
    ["loss-caption", "captions or fields"],
    ["loss-image-class", "image-level classes"],
    ["loss-object", "objects"],
    ["loss-state", "which images are empty"],
    ["loss-split", "which images have no split"],
    ["box-as-corners", "that boxes are boxes"],
    ["mirror-unpaired", "left and right of keypoints"],
  ]);
  return words.get(code) ?? code;
}

function PackControls({
  plan,
  change,
  losses,
  formats,
}: {
  plan: Plan;
  change: Change;
  losses: readonly ForeseenLosses[] | undefined;
  formats: readonly { name: string; title: string }[];
}) {
  const { pack } = plan;
  return (
    <>
      {formats.map(({ name, title }) => {
        const on = pack.formats.includes(name);
        const foreseen = losses?.find((entry) => entry.format === name);
        const lost = foreseen?.findings;
        return (
          <Row key={name}>
            <Tick
              label={`${name}: ${title}`}
              checked={on}
              onChange={(next) =>
                change({
                  ...plan,
                  pack: { formats: next ? [...pack.formats, name] : pack.formats.filter((other) => other !== name) },
                })
              }
            />
            {on
              ? lost?.map((finding) => (
                  <p key={finding.code} className="mt-1 ml-[26px] flex gap-2 text-[12.5px] text-ink-2">
                    <FindingMark severity={finding.severity} />
                    {finding.sentence}
                  </p>
                ))
              : null}
            {lost === undefined ? null : lost.length === 0 ? (
              <p className="mt-0.5 ml-[26px] text-[12.5px] text-ink-3">
                {foreseen?.exact ? "Carries everything in this data set." : "Would carry everything."}
              </p>
            ) : on ? null : (
              <p className="mt-0.5 ml-[26px] text-[12.5px] text-ink-3">
                Would lose {[...new Set(lost.map(({ code }) => lossWords(code)))].join(", ")}.
              </p>
            )}
          </Row>
        );
      })}
    </>
  );
}

/** The controls of the chosen step. */
export function StepControls({
  step,
  plan,
  change,
  flow,
  losses,
  formats,
}: {
  step: Exclude<PlanStep, "stock">;
  plan: Plan;
  change: Change;
  flow: PlanFlow | undefined;
  losses: readonly ForeseenLosses[] | undefined;
  formats: readonly { name: string; title: string }[];
}) {
  const classes = flow?.classes ?? [];
  switch (step) {
    case "select":
      return <SelectControls plan={plan} change={change} />;
    case "relabel":
      return <RelabelControls plan={plan} change={change} classes={classes} />;
    case "split":
      return <SplitControls plan={plan} change={change} kept={flow?.kept} />;
    case "prepare":
      return <PrepareControls plan={plan} change={change} />;
    case "augment":
      return <AugmentControls plan={plan} change={change} unchanged={flow?.unchanged} />;
    case "pack":
      return <PackControls plan={plan} change={change} losses={losses} formats={formats} />;
  }
}
