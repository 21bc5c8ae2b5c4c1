"use client";
import type { Plan } from "@larder/core/plans/plan";
import { planSteps, type PlanStep } from "@larder/core/plans/flow";
import { manyOutputs } from "@larder/core/plans/flow";
import type { ForeseenLosses } from "@larder/core/versions/foreseen-losses";
import type { PlanFlow } from "@larder/server/services/planning/plan-flow";
import type { LastVersion, PlanRow } from "@larder/server/services/plans";
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { parseAsBoolean, parseAsStringLiteral, useQueryState } from "nuqs";
import { useEffect, useLayoutEffect, useRef, useState } from "react";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { useClasses, type Wire } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { classColour } from "@/ui/colours";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";
import { Loading, Trouble } from "@/ui/states";
import { count, dayAndTime, number } from "@/ui/words";
import { DealDialog } from "./deal-dialog";
import { CountEvidence, SampleEvidence } from "./evidence";
import { FlowBands } from "./flow-bands";
import { Gates, useGates } from "./gates";
import { StepControls } from "./step-controls";
import { stepSummaries } from "./step-summaries";
import { HistoryDialog } from "./history-dialog";
import { LeavingDialog } from "./leaving-dialog";
import { PlanText } from "./plan-text";
import type { PackFormat } from "@/features/formats/option-rows";

const titles: Record<PlanStep, string> = {
  stock: "Stock",
  select: "Select",
  relabel: "Relabel",
  split: "Split",
  prepare: "Prepare",
  augment: "Augment",
  pack: "Pack",
};
const steps = planSteps.filter((step): step is Exclude<PlanStep, "stock"> => step !== "stock");
const editable = parseAsStringLiteral(steps).withDefault("split");

/** What was changed since a plan was last built. */
function SinceVersion({ collection, last }: { collection: number; last: Wire<LastVersion> }) {
  const { number: version, changed } = last;
  const said = [
    ...(changed.plan ? ["the plan"] : []),
    ...(changed.acts > 0 ? [`the stock by ${count(changed.acts, "act")}`] : []),
  ];
  const words = said.length === 0 ? "nothing changed since" : `${said.join(" and ")} changed since`;
  return (
    <>
      {" · "}
      {words}{" "}
      <Link href={`/c/${collection}/versions/${version}`} className="underline-offset-2 hover:underline">
        v{version}
      </Link>
    </>
  );
}

function BuildDialog({
  plan,
  next,
  outputs,
  onDone,
}: {
  plan: Wire<PlanRow>;
  next: number;
  outputs: number;
  onDone: () => void;
}) {
  const many = outputs > manyOutputs;
  const [sure, setSure] = useState(!many);
  const router = useRouter();
  const client = useQueryClient();
  const [name, setName] = useState(plan.name);
  const [note, setNote] = useState("");
  const [error, setError] = useState<string>();
  const build = async () => {
    try {
      await api("/api/versions", { method: "POST", body: { planId: plan.id, name, note, many } });
      await client.invalidateQueries();
      router.push(`/c/${plan.collectionId}/versions`);
    } catch (problem) {
      setError((problem as Error).message);
    }
  };
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onDone()}
      title={`Build v${next}`}
      description="A version is this plan run once on the stock as it is now, and frozen."
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void build();
        }}
      >
        <TextField
          label="Name"
          value={name}
          onChange={(event) => setName(event.target.value)}
          error={error}
          autoFocus
        />
        <TextField
          label="Note, for whoever trains on it"
          value={note}
          onChange={(event) => setNote(event.target.value)}
        />
        {many ? (
          <label className="flex items-center gap-2 rounded-md bg-look-wash px-3 py-2 text-look">
            <input type="checkbox" checked={sure} onChange={(event) => setSure(event.target.checked)} />
            Yes, make up to {number(outputs)} images
          </label>
        ) : null}
        <div className="mt-1 flex justify-end gap-2">
          <Button onClick={onDone}>Cancel</Button>
          <Button type="submit" look="go" disabled={!sure}>
            Build v{next}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

function Heads({
  plan,
  step,
  onStep,
  deliveries,
}: {
  plan: Plan;
  step: PlanStep;
  onStep: (step: Exclude<PlanStep, "stock">) => void;
  deliveries: string;
}) {
  const words = stepSummaries(plan);
  const onKey = (event: React.KeyboardEvent<HTMLDivElement>) => {
    const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    if (by === undefined) return;
    const at = steps.findIndex((name) => name === step);
    const next = steps[(at + by + steps.length) % steps.length];
    if (!next) return;
    event.preventDefault();
    onStep(next);
    event.currentTarget.querySelector<HTMLElement>(`[data-step="${next}"]`)?.focus();
  };
  return (
    <div role="tablist" aria-label="Steps of the plan" className="grid grid-cols-7" onKeyDown={onKey}>
      {planSteps.map((name) => {
        const on = name === step;
        const body = (
          <>
            <b className="block font-title text-[14.5px] font-semibold">{titles[name]}</b>
            <span className="block text-[12px] leading-[1.35] text-ink-2">
              {name === "stock" ? deliveries : words[name]}
            </span>
          </>
        );
        const look = `flex min-h-[66px] flex-col items-start border-t-2 border-r border-r-rule px-2.5 py-2 text-left last:border-r-0 ${on ? "border-t-act bg-act-wash" : "border-t-rule-strong bg-sheet"}`;
        return name === "stock" ? (
          <div key={name} className={look}>
            {body}
          </div>
        ) : (
          <button
            key={name}
            type="button"
            role="tab"
            aria-selected={on}
            tabIndex={on ? 0 : -1}
            data-step={name}
            onClick={() => onStep(name)}
            className={`${look} ${on ? "" : "hover:bg-well"}`}
          >
            {body}
          </button>
        );
      })}
    </div>
  );
}

/**
 * A plan as a flow sheet: its steps side by side, the counts flowing through them, the chosen step's controls beneath.
 */
export function FlowSheet({
  collection,
  id,
  formats,
}: {
  collection: number;
  id: number;
  formats: readonly PackFormat[];
}) {
  const client = useQueryClient();
  const { data: row, error } = useQuery({
    queryKey: ["plan", id],
    queryFn: ({ signal }) => api<Wire<PlanRow>>(`/api/plans/${id}`, { signal }),
  });
  const { data: classes } = useClasses(collection);
  const [plan, setPlan] = useState<Plan | null>(null);
  const [step, setStep] = useQueryState("step", editable);
  const [dialog, setDialog] = useState<"build" | "history" | "leaving" | "deal" | null>(null);
  const [text, setText] = useQueryState("text", parseAsBoolean.withDefault(false));
  const [saving, setSaving] = useState(false);
  const [line, setLine] = useState<number | null>(null);
  const [leaving, setLeaving] = useState<PlanStep>("select");
  const timer = useRef<ReturnType<typeof setTimeout> | null>(null);
  const past = useRef<Plan[]>([]);
  // Edits are counted, so that what the server sends never overwrites one it has not heard of; saves go one after the
  // other.
  const edits = useRef({ made: 0, saved: 0 });
  const saves = useRef<Promise<void>>(Promise.resolve());
  useEffect(() => {
    if (row && edits.current.made === edits.current.saved) setPlan(row.body);
  }, [row]);

  const save = (next: Plan, edit: number) => {
    timer.current = null;
    setSaving(true);
    saves.current = saves.current.then(async () => {
      try {
        const saved = await api<Wire<PlanRow>>(`/api/plans/${id}`, { method: "PATCH", body: { body: next } });
        edits.current.saved = edit;
        if (edit === edits.current.made) client.setQueryData(["plan", id], saved);
      } catch (problem) {
        toast.error((problem as Error).message);
      } finally {
        setSaving(false);
      }
    });
    return saves.current;
  };
  const put = (next: Plan) => {
    const edit = ++edits.current.made;
    setPlan(next);
    if (timer.current) clearTimeout(timer.current);
    timer.current = setTimeout(() => void save(next, edit), 350);
  };
  /** Waits until every edit is saved: what comes next must build on them. */
  const settleEdits = async () => {
    if (timer.current && plan) {
      clearTimeout(timer.current);
      await save(plan, edits.current.made);
    } else await saves.current;
  };
  const change = (next: Plan) => {
    if (plan) past.current.push(plan);
    put(next);
  };
  const putRef = useRef(put);
  putRef.current = put;
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.target instanceof HTMLElement && event.target.closest("input, textarea, [contenteditable=true]"))
        return;
      if (event.key.toLowerCase() !== "z" || !(event.ctrlKey || event.metaKey)) return;
      const before = past.current.pop();
      if (before) putRef.current(before);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);

  const { data: flow, error: flowError } = useQuery({
    queryKey: ["plan-flow", collection, plan],
    enabled: plan !== null,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      api<PlanFlow>(`/api/collections/${collection}/plan-flow`, { method: "POST", body: plan, signal }),
  });
  const { data: losses } = useQuery({
    queryKey: ["plan-losses", collection, plan],
    enabled: plan !== null && step === "pack",
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      api<ForeseenLosses[]>(`/api/collections/${collection}/plan-losses`, {
        method: "POST",
        body: plan,
        signal,
      }),
  });

  const gates = useGates(collection, plan);

  const frame = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(1240);
  useLayoutEffect(() => {
    const element = frame.current;
    if (!element) return;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth));
    observer.observe(element);
    return () => observer.disconnect();
  }, [flow === undefined]);

  if (error) return <Trouble error={error} />;
  if (!row || !plan) return <Loading what="the plan" />;
  const colours = new Map(classes?.map((entry) => [entry.name, classColour(entry.colour)]));
  for (const [from, to] of Object.entries(plan.relabel.rename))
    if (!colours.has(to)) colours.set(to, colours.get(from) ?? classColour(0));
  // Classes that the plan makes take the colours after those of the stock.
  for (const name of new Set(flow?.steps.flatMap((entry) => entry.bands.flatMap((band) => Object.keys(band.byClass)))))
    if (!colours.has(name)) colours.set(name, classColour(colours.size));
  const bands = flow?.steps.find((entry) => entry.step === step)?.bands ?? [];
  const out = flow?.steps[flow.steps.length - 1]?.bands ?? [];
  const images = out.reduce((sum, band) => sum + band.images, 0);
  const closed = gates?.results.filter(({ isOpen }) => !isOpen) ?? [];
  const blocked = images === 0 || closed.length > 0 || (flow?.emptySplits.length ?? 0) > 0;
  return (
    <main className="mx-auto max-w-[1640px] pb-16">
      <div className="flex min-h-[58px] items-center gap-3 px-5 py-3">
        <h1 className="text-[21px] leading-tight">{row.name}</h1>
        <span className="text-ink-3">
          {saving ? "saving" : `edited ${dayAndTime(row.updatedAt)}`}
          {row.lastVersion ? <SinceVersion collection={collection} last={row.lastVersion} /> : null}
        </span>
        <div className="ml-auto flex items-center gap-2">
          {flow ? (
            <span className="mr-1 text-ink-2" data-testid="builds">
              builds <b className="font-semibold text-ink">{number(images)}</b> images
            </span>
          ) : null}
          <Button onClick={() => void settleEdits().then(() => setDialog("history"))}>History</Button>
          <Button aria-pressed={text} onClick={() => void setText(!text)}>
            YAML
          </Button>
          <Button
            look="go"
            disabled={!flow || blocked}
            onClick={() => void settleEdits().then(() => setDialog("build"))}
          >
            Build v{flow?.nextVersion ?? ""}
          </Button>
        </div>
      </div>
      {flowError ? <Trouble error={flowError} /> : null}
      <div ref={frame} className="mx-5">
        <Heads plan={plan} step={step} onStep={(next) => void setStep(next)} deliveries="all images" />
        {flow ? (
          <FlowBands
            steps={flow.steps}
            width={width}
            onLeaving={(left) => {
              setLeaving(left);
              setDialog("leaving");
            }}
          />
        ) : (
          <Loading what="the counts" />
        )}
      </div>
      {flow && flow.emptySplits.length > 0 ? (
        <p role="alert" className="mx-5 mb-3 rounded-md bg-look-wash px-3 py-2 text-look">
          {flow.emptySplits.join(" and ")} would hold no image: too few come through for the splits that are asked for.
          Let more images in, set that share to 0, or deal all anew.
        </p>
      ) : null}
      {closed.length > 0 ? (
        <p role="alert" className="mx-5 mb-3 rounded-md bg-look-wash px-3 py-2 text-look">
          {closed.length === 1 ? "A gate is closed" : `${closed.length} gates are closed`}, so no version is built:{" "}
          {closed.flatMap(({ sentences }) => sentences).join(" ")}
        </p>
      ) : null}
      <Gates collection={collection} id={id} plan={plan} gates={gates} change={change} />
      <div
        className={`mx-5 grid border-t border-rule ${step === "augment" ? "grid-cols-[minmax(420px,44%)_1fr]" : "grid-cols-[372px_1fr]"}`}
      >
        <section aria-label={`${titles[step]} controls`} className="border-r border-rule py-3.5 pr-5">
          <h2 className="mb-1.5 text-[15px]">{titles[step]}</h2>
          <StepControls
            step={step}
            plan={plan}
            change={change}
            flow={flow}
            losses={losses}
            formats={formats}
            line={line}
            onLine={setLine}
            onDeal={() => void settleEdits().then(() => setDialog("deal"))}
          />
        </section>
        <section aria-label="Evidence" className="min-w-0 py-3.5 pl-5">
          {text ? (
            <PlanText plan={plan} change={change} />
          ) : step === "prepare" || step === "augment" ? (
            <SampleEvidence
              collection={collection}
              plan={plan}
              colours={colours}
              line={step === "augment" ? line : null}
            />
          ) : (
            <CountEvidence bands={bands} colours={colours} flow={step === "split" ? flow : undefined} />
          )}
        </section>
      </div>
      {dialog === "build" && flow ? (
        <BuildDialog plan={row} next={flow.nextVersion} outputs={flow.outputs} onDone={() => setDialog(null)} />
      ) : null}
      {dialog === "deal" && flow ? (
        <DealDialog
          collection={collection}
          plan={id}
          bands={flow.steps.find((entry) => entry.step === "split")?.bands ?? []}
          onDone={() => setDialog(null)}
        />
      ) : null}
      {dialog === "history" ? (
        <HistoryDialog id={id} plan={plan} onTake={change} onDone={() => setDialog(null)} />
      ) : null}
      {dialog === "leaving" ? (
        <LeavingDialog collection={collection} plan={plan} step={leaving} onDone={() => setDialog(null)} />
      ) : null}
    </main>
  );
}
