"use client";
import { newOpStep, type OpStep, type ParameterValue, type ToneStep } from "@larder/core/plans/augmentations";
import type { AnyOp, NumberParameter, Parameter } from "@larder/core/imaging/ops/op";
import { opNamed } from "@larder/core/imaging/ops/registry";
import { toneOps } from "@larder/core/imaging/ops/tones";
import { NumberInput } from "@/ui/number-input";
import { namesIn, ShortText } from "../steps/rows";
import { shownAs } from "./parameter-words";

type Put = (step: OpStep) => void;

function Inline({
  parameter,
  value,
  label,
  onChange,
}: {
  parameter: NumberParameter;
  value: number;
  label: string;
  onChange: (value: number) => void;
}) {
  const { factor, step, min, max } = shownAs(parameter);
  return (
    <NumberInput
      aria-label={label}
      title={parameter.help}
      value={Number((value * factor).toFixed(4))}
      min={min}
      max={max}
      step={step}
      onChange={(next) => onChange(next / factor)}
      className="h-[22px] w-[62px] px-1"
    />
  );
}

/** A number or a range, changed where it stands; one end never passes the other. */
function NumberWords({
  name,
  op,
  parameter,
  value,
  onChange,
}: {
  name: string;
  op: AnyOp;
  parameter: NumberParameter;
  value: number | readonly [number, number];
  onChange: (value: ParameterValue) => void;
}) {
  const { unit } = shownAs(parameter);
  const label = `${op.title} ${name}`;
  if (typeof value === "number")
    return (
      <span className="inline-flex items-center gap-1">
        <Inline parameter={parameter} value={value} label={label} onChange={onChange} />
        {unit}
        <button
          type="button"
          className="text-[11.5px] text-act underline-offset-2 hover:underline"
          onClick={() => onChange([Math.min(value, parameter.max), value])}
          title="Draw it from a range"
        >
          range
        </button>
      </span>
    );
  const [low, high] = value;
  return (
    <span className="inline-flex items-center gap-1">
      <Inline
        parameter={parameter}
        value={low}
        label={`${label} from`}
        onChange={(next) => onChange([Math.min(next, high), high])}
      />
      to
      <Inline
        parameter={parameter}
        value={high}
        label={`${label} to`}
        onChange={(next) => onChange([low, Math.max(next, low)])}
      />
      {unit}
    </span>
  );
}

function ParameterWords({
  op,
  name,
  parameter,
  step,
  put,
}: {
  op: AnyOp;
  name: string;
  parameter: Parameter;
  step: OpStep;
  put: Put;
}) {
  const value = step[name] as ParameterValue;
  const set = (next: ParameterValue) => put({ ...step, [name]: next });
  switch (parameter.kind) {
    case "number":
      return (
        <NumberWords
          name={name}
          op={op}
          parameter={parameter}
          value={value as number | readonly [number, number]}
          onChange={set}
        />
      );
    case "one-of": {
      const list = value as readonly number[];
      return (
        <span className="inline-flex gap-1.5">
          {parameter.options.map((option) => (
            <label key={option} className="inline-flex items-center gap-1">
              <input
                type="checkbox"
                aria-label={`${op.title} ${name} ${option}`}
                checked={list.includes(option)}
                onChange={(event) => {
                  const next = event.target.checked
                    ? [...list, option].sort((a, b) => a - b)
                    : list.filter((other) => other !== option);
                  if (next.length > 0) set(next);
                }}
              />
              {option}
            </label>
          ))}
        </span>
      );
    }
    case "choice":
      return (
        <select
          aria-label={`${op.title} ${name}`}
          title={parameter.help}
          value={parameter.options.includes(value as string) ? (value as string) : "colour"}
          onChange={(event) => set(event.target.value === "colour" ? "#808080" : event.target.value)}
          className="h-[22px] rounded-md border border-rule-strong bg-sheet px-1"
        >
          {parameter.options.map((option) => (
            <option key={option}>{option}</option>
          ))}
          {parameter.colour ? <option>colour</option> : null}
        </select>
      );
    case "classes":
      return (
        <ShortText
          label={`${op.title} ${name}`}
          value={(value as readonly string[]).join(", ")}
          placeholder="every class"
          className="w-[110px]"
          onCommit={(text) => set(namesIn(text))}
        />
      );
    case "tones":
      return <ToneLines tones={value as readonly ToneStep[]} label={op.title} put={set} />;
  }
}

/** Tone ops within an op, in the order they run. */
function ToneLines({
  tones,
  label,
  put,
}: {
  tones: readonly ToneStep[];
  label: string;
  put: (tones: ParameterValue) => void;
}) {
  return (
    <span className="flex basis-full flex-col gap-1 border-l-2 border-rule pl-2.5">
      {tones.map((tone, at) => {
        const toneOp = opNamed(tone.op);
        return (
          <span key={at} className="flex flex-wrap items-center gap-x-2 gap-y-1">
            <b className="font-semibold">{toneOp.title}</b>
            {Object.entries(toneOp.parameters).map(([name, parameter]) => (
              <ParameterWords
                key={name}
                op={toneOp}
                name={name}
                parameter={parameter}
                step={{ ...tone, chance: 1 }}
                put={({ chance: _, ...next }) => put(tones.map((other, n) => (n === at ? (next as ToneStep) : other)))}
              />
            ))}
            <button
              type="button"
              aria-label={`Take ${toneOp.title} out of ${label}`}
              className="text-small text-ink-3 hover:text-ink"
              onClick={() => put(tones.filter((_, n) => n !== at))}
            >
              Remove
            </button>
          </span>
        );
      })}
      <select
        aria-label={`Add a tone to ${label}`}
        value=""
        onChange={(event) => {
          const { chance: _, ...tone } = newOpStep(event.target.value);
          put([...tones, tone]);
        }}
        className="h-[22px] w-[130px] rounded-md border border-rule-strong bg-sheet px-1"
      >
        <option value="">add a tone</option>
        {toneOps.map(({ name, title }) => (
          <option key={name} value={name}>
            {title}
          </option>
        ))}
      </select>
    </span>
  );
}

/** An op as a sentence with its numbers in place. */
export function OpSentence({ step, put }: { step: OpStep; put: Put }) {
  const op = opNamed(step.op);
  return (
    <span className="flex flex-wrap items-center gap-x-2 gap-y-1" title={op.help}>
      <b className="font-semibold">{op.title}</b>
      {Object.entries(op.parameters).map(([name, parameter]) => (
        <span key={name} className="inline-flex items-center gap-1">
          <span className="text-ink-3">{name}</span>
          <ParameterWords op={op} name={name} parameter={parameter} step={step} put={put} />
        </span>
      ))}
      <Chance chance={step.chance} label={op.title} onChange={(chance) => put({ ...step, chance })} />
    </span>
  );
}

/** How often a line happens, as a percentage of the copies. */
export function Chance({
  chance,
  label,
  onChange,
}: {
  chance: number;
  label: string;
  onChange: (chance: number) => void;
}) {
  return (
    <span className="inline-flex items-center gap-1 text-ink-3">
      in
      <NumberInput
        aria-label={`${label} chance`}
        value={Number((chance * 100).toFixed(2))}
        min={0}
        max={100}
        step={5}
        onChange={(share) => onChange(share / 100)}
        className="h-[22px] w-[62px] px-1"
      />
      % of copies
    </span>
  );
}
