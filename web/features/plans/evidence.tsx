"use client";
import { ownEntry } from "@larder/core/model/own-entry";
import type { Band } from "@larder/core/plans/flow";
import { opNamed } from "@larder/core/imaging/ops/registry";
import type { OpStep } from "@larder/core/plans/augmentations";
import type { Plan } from "@larder/core/plans/plan";
import type { Evidence, Sample } from "@larder/server/services/planning/evidence";
import type { PlanFlow } from "@larder/server/services/planning/plan-flow";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api } from "@/features/live/api";
import { Shapes } from "@/features/shapes/shapes";
import { Button } from "@/ui/button";
import { classColour } from "@/ui/colours";
import { SplitMark } from "@/ui/marks";
import { count, number } from "@/ui/words";
import { ShortText } from "./steps/rows";
import { hasRange, planAt } from "./augment/range-steps";

export type ClassColours = Map<string, string>;

const dropWords = { cut: "cut off", moved: "moved out", covered: "covered" };

export function SampleFigure({ sample, caption, colours }: { sample: Sample; caption: string; colours: ClassColours }) {
  const gone = sample.ghosts.map(
    ({ class: name, reason, left }) => `${name} ${dropWords[reason]}, ${Math.round(left * 100)}% left`,
  );
  return (
    <figure className="min-w-0">
      <div
        className="relative overflow-hidden rounded-sm bg-dim"
        style={{ aspectRatio: `${sample.width} / ${sample.height}` }}
      >
        <img src={sample.picture} alt="" className="absolute inset-0 size-full" />
        <Shapes
          width={sample.width}
          height={sample.height}
          shapes={[
            ...sample.ghosts.map(({ class: name, shape, reason, left }, at) => ({
              key: `ghost ${at}`,
              shape,
              colour: colours.get(name) ?? classColour(0),
              ghost: `${dropWords[reason]}, ${Math.round(left * 100)}%`,
            })),
            ...sample.objects.map((object, key) => ({
              key,
              shape: object.shape,
              colour: colours.get(object.class) ?? classColour(0),
            })),
          ]}
        />
      </div>
      <figcaption className="mt-1 text-[12px] leading-[1.35] text-ink-2">
        <span className="block truncate" title={caption}>
          {caption}
        </span>
        {gone.length > 0 ? (
          <span className="block truncate text-look" title={gone.join("; ")}>
            without {gone[0]}
            {gone.length > 1 ? ` and ${gone.length - 1} more` : ""}
          </span>
        ) : null}
      </figcaption>
    </figure>
  );
}

/** One question for evidence: a plan, on which image, drawn for the how-manieth time. */
function useEvidence(
  collection: number,
  plan: Plan,
  asked: { turn: number; draw: number; many: number; named: string },
) {
  return useQuery({
    queryKey: ["plan-samples", collection, plan, asked],
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      api<Evidence | null>(`/api/collections/${collection}/plan-samples`, {
        method: "POST",
        body: { plan, ...asked },
        signal,
      }),
  });
}

const places = ["low end", "middle", "high end"];

/** One line's range: its low end, its middle and its high end on one image, side by side. */
function RangeEvidence({
  collection,
  plan,
  step,
  colours,
  turn,
  named,
}: {
  collection: number;
  plan: Plan;
  step: OpStep;
  colours: ClassColours;
  turn: number;
  named: string;
}) {
  const asked = { turn, named, draw: 0, many: 1 };
  const [low, middle, high] = [
    useEvidence(collection, planAt(plan, step, 0), asked),
    useEvidence(collection, planAt(plan, step, 0.5), asked),
    useEvidence(collection, planAt(plan, step, 1), asked),
  ];
  return (
    <section aria-label="The range" className="mb-4">
      <h3 className="mb-1.5 text-ink-2">{opNamed(step.op).title} alone, over its range</h3>
      <div className="grid grid-cols-3 gap-2">
        {[low, middle, high].map(({ data }, at) => {
          const sample = data?.after[0];
          return sample ? (
            <SampleFigure key={at} sample={sample} caption={places[at] ?? ""} colours={colours} />
          ) : (
            <p key={at} className="text-ink-3">
              {places[at]}
            </p>
          );
        })}
      </div>
    </section>
  );
}

/** A training image before and after the plan, labels moved along. `d` draws anew, `n` takes another image. */
export function SampleEvidence({
  collection,
  plan,
  colours,
  line,
}: {
  collection: number;
  plan: Plan;
  colours: ClassColours;
  /** The augmentation whose range is shown above the mix. */
  line: number | null;
}) {
  const [turn, setTurn] = useState(0);
  const [draw, setDraw] = useState(0);
  const [named, setNamed] = useState("");
  const [problem, setProblem] = useState<string>();
  const many = Math.min(8, Math.max(4, plan.augment.copies + 1));
  const { data } = useEvidence(collection, evidencePlan(plan), { turn, draw, many, named });
  const step = line === null ? undefined : plan.augment.do[line];
  /** Shows an image of the stock by its name, where there is one. */
  const askFor = async (name: string) => {
    try {
      if (name !== "")
        await api(`/api/collections/${collection}/plan-samples`, {
          method: "POST",
          body: { plan, named: name, many: 1 },
        });
      setProblem(undefined);
      setNamed(name);
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  const another = () => {
    setNamed("");
    setTurn((n) => n + 1);
  };
  const anotherRef = useRef(another);
  anotherRef.current = another;
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const { target } = event;
      const typing = target instanceof HTMLElement && target.closest("input, textarea, select, [contenteditable=true]");
      if (typing || event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.key === "d") setDraw((n) => n + 1);
      if (event.key === "n") anotherRef.current();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  if (data === undefined) return <p className="text-ink-3">Drawing samples</p>;
  if (data === null) return <p className="text-ink-3">No image comes through yet.</p>;
  return (
    <>
      <div className="mb-2 flex items-baseline gap-2">
        <h2 className="text-[15px]">What it does</h2>
        <span className="min-w-0 truncate text-ink-3">
          {data.name}, {data.split === "none" ? "not in this data set" : data.split}
        </span>
        <span className="ml-auto">
          <ShortText
            label="Show the image called"
            value={named}
            placeholder="an image's name"
            problem={problem}
            className="w-[150px]"
            onCommit={(name) => void askFor(name.trim())}
          />
        </span>
        <Button small onClick={() => setDraw(draw + 1)} title="d">
          Draw again
        </Button>
        <Button small onClick={another} title="n">
          Another image
        </Button>
      </div>
      {step && hasRange(step) ? (
        <RangeEvidence
          collection={collection}
          plan={plan}
          step={step as OpStep}
          colours={colours}
          turn={turn}
          named={named}
        />
      ) : null}
      <div className="grid grid-cols-4 items-start gap-x-2 gap-y-3">
        <SampleFigure
          sample={data.before}
          caption={`in stock, ${number(data.before.width)} × ${number(data.before.height)}`}
          colours={colours}
        />
        {data.after.map((sample, at) => (
          <SampleFigure
            key={at}
            sample={sample}
            caption={`${sample.copy === 0 ? "goes out" : `copy ${sample.copy}`}: ${sample.words}`}
            colours={colours}
          />
        ))}
      </div>
    </>
  );
}

/** While a plan makes few copies more are shown, so that a mix can be judged. */
function evidencePlan(plan: Plan): Plan {
  const { augment } = plan;
  if (augment.do.length === 0) return plan;
  return { ...plan, augment: { ...augment, copies: Math.max(augment.copies, 3), unchanged: "keep" } };
}

/** Per class and band, how many labels come out of a step; with what was aimed at, where images are dealt. */
export function CountEvidence({
  bands,
  colours,
  flow,
}: {
  bands: readonly Band[];
  colours: ClassColours;
  flow?: PlanFlow | undefined;
}) {
  const names = [...new Set(bands.flatMap((band) => Object.keys(band.byClass)))].sort((a, b) => total(b) - total(a));
  function total(name: string): number {
    return bands.reduce((sum, band) => sum + (ownEntry(band.byClass, name) ?? 0), 0);
  }
  const most = Math.max(1, ...names.map(total));
  const images = bands.reduce((sum, band) => sum + band.images, 0);
  const targets = flow?.targets ?? null;
  return (
    <>
      <h2 className="mb-1 text-[15px]">What comes out, class by class</h2>
      {targets ? (
        <p className="mb-1.5 text-ink-2">
          {bands
            .map(({ split, images: got }) =>
              split ? `${split} ${number(got)} of ${number(targets[split])} wanted` : "",
            )
            .filter(Boolean)
            .join(" · ")}
          {flow?.together
            ? ` · ${count(flow.together.groups, "group")} held together${flow.together.torn > 0 ? `, ${flow.together.torn} torn by splits that stand` : ""}`
            : ""}
        </p>
      ) : null}
      {flow && flow.leaks.length > 0 ? (
        <p className="mb-1.5 rounded-md bg-look-wash px-3 py-1.5 text-look">
          {flow.leaks
            .map(
              ({ split, from, images: few }) =>
                `${count(few, "image")} of ${split} ${few === 1 ? "is" : "are"} nearly the same as some of ${from}`,
            )
            .join("; ")}
          . Hold near-copies together, and scores on them mean more.
        </p>
      ) : flow ? (
        <p className="mb-1.5 text-ink-3">No near-copies lie in two splits.</p>
      ) : null}
      <table className="ledger">
        <thead>
          <tr>
            <th>Class</th>
            <th className="w-[40%]">Share</th>
            {bands.map((band) => (
              <th key={band.split ?? "all"} className="number">
                {band.split ? <SplitMark split={band.split} /> : "labels"}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {names.map((name) => (
            <tr key={name}>
              <td className="max-w-[200px] truncate" title={name}>
                <span
                  aria-hidden="true"
                  className="mr-2 inline-block size-2.5 rounded-[2px]"
                  style={{ background: colours.get(name) ?? classColour(0) }}
                />
                {name}
              </td>
              <td>
                <span className="block h-[9px] bg-well">
                  <span
                    className="block h-full"
                    style={{ width: `${(total(name) / most) * 100}%`, background: colours.get(name) ?? classColour(0) }}
                  />
                </span>
              </td>
              {bands.map((band) => {
                const got = ownEntry(band.byClass, name) ?? 0;
                const wanted = images > 0 ? (total(name) * band.images) / images : 0;
                return (
                  <td key={band.split ?? "all"} className="number">
                    {number(got)}
                    {targets && band.split ? (
                      <span className="ml-1 text-ink-3" title="in proportion to the split's images">
                        / {number(Math.round(wanted))}
                      </span>
                    ) : null}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
