"use client";
import { attributeMisfit, type AttributeSchema } from "@larder/core/model/attribute-schema";
import type { StockObject } from "@larder/core/labels/labels";
import type { Step } from "@larder/core/labels/step";
import { fitShape } from "@larder/core/editing/move";
import { shapeBounds } from "@larder/core/geometry/shape";
import { objectFlags, type AttributeValue, type Size } from "@larder/core/model/item";
import type { Shape } from "@larder/core/model/shape";
import { useState } from "react";
import { SettledNumber } from "./settled-number";

const degrees = 180 / Math.PI;

type TypedNumber = { name: string; value: number; with: (value: number) => Shape };

/** The numbers of a shape that can be typed, and the shape with one of them changed: of any but boxes, those around it. */
function numbersOf(shape: Shape, size: Size): TypedNumber[] {
  if (shape.kind === "rotated-box")
    return [
      ...(["cx", "cy", "width", "height"] as const).map((name) => ({
        name: { cx: "middle x", cy: "middle y", width: "width", height: "height" }[name],
        value: shape[name],
        with: (value: number): Shape => ({ ...shape, [name]: value }),
      })),
      { name: "angle °", value: shape.angle * degrees, with: (value) => ({ ...shape, angle: value / degrees }) },
    ];
  const bounds = shapeBounds(shape);
  if (!bounds) return [];
  // What has no extent cannot be scaled to one.
  const names = (["x", "y", "width", "height"] as const).filter((name) => name.length === 1 || bounds[name] > 0);
  return names.map((name) => ({
    name,
    value: bounds[name],
    with: (value) =>
      shape.kind === "box" ? { ...shape, [name]: value } : fitShape(shape, { ...bounds, [name]: value }, size),
  }));
}

const field = "h-7 w-full rounded-md border border-dim-rule bg-dim px-1.5 text-[12.5px] text-dim-ink";

/** One attribute as a control the keyboard walks through; what does not fit its schema is said beneath. */
function AttributeField({
  schema,
  value,
  onSet,
}: {
  schema: AttributeSchema;
  value: AttributeValue | undefined;
  onSet: (value: AttributeValue | null) => void;
}) {
  const [trouble, setTrouble] = useState<string | null>(null);
  const put = (next: AttributeValue | null) => {
    const misfit = next === null ? null : attributeMisfit(schema, next);
    setTrouble(misfit);
    if (!misfit) onSet(next);
  };
  const isMissing = schema.required && value === undefined;
  const label = `${schema.name}${schema.required ? ", required" : ""}`;
  return (
    <label className="block">
      <span className={`block text-[11.5px] ${isMissing ? "text-[#f2c14e]" : "text-dim-ink-2"}`} title={schema.help}>
        {label}
      </span>
      {schema.kind === "choice" || schema.kind === "yes-no" ? (
        <select
          data-attribute-field
          className={field}
          value={value === undefined ? "" : String(value)}
          onChange={({ target }) =>
            put(target.value === "" ? null : schema.kind === "yes-no" ? target.value === "true" : target.value)
          }
        >
          <option value="">not said</option>
          {schema.kind === "choice" ? (
            schema.values.map((one) => <option key={one}>{one}</option>)
          ) : (
            <>
              <option value="true">yes</option>
              <option value="false">no</option>
            </>
          )}
        </select>
      ) : schema.kind === "several" ? (
        <select
          data-attribute-field
          multiple
          size={Math.min(4, schema.values.length)}
          className={`${field} h-auto`}
          value={Array.isArray(value) ? value : []}
          onChange={({ target }) => {
            const chosen = [...target.selectedOptions].map((option) => option.value);
            put(chosen.length > 0 ? chosen : null);
          }}
        >
          {schema.values.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </select>
      ) : (
        <input
          data-attribute-field
          className={field}
          type={schema.kind === "number" ? "number" : "text"}
          defaultValue={value === undefined ? "" : String(value)}
          key={String(value)}
          onBlur={({ target }) => {
            const text = target.value.trim();
            if (text === (value === undefined ? "" : String(value))) return;
            put(text === "" ? null : schema.kind === "number" ? Number(text) : text);
          }}
          onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
        />
      )}
      {trouble ? <span className="block text-[11.5px] text-[#f2c14e]">{trouble}</span> : null}
    </label>
  );
}

/** What is said about the chosen objects, to be changed for all of them at once. */
export function ObjectPanel({
  objects,
  schemas,
  size,
  onSteps,
}: {
  objects: readonly StockObject[];
  size: Size;
  schemas: readonly AttributeSchema[];
  onSteps: (steps: Step[]) => void;
}) {
  const [first] = objects;
  if (!first) return null;
  const shared = <T,>(of: (object: StockObject) => T): T | undefined => {
    const value = of(first);
    return objects.every((object) => JSON.stringify(of(object)) === JSON.stringify(value)) ? value : undefined;
  };
  // What is said without the class knowing of it can be changed too, as what it is.
  const undeclared = Object.entries(first.attributes ?? {})
    .filter(([name]) => !schemas.some((schema) => schema.name === name))
    .flatMap(([name, value]): AttributeSchema[] => {
      const base = { name, required: false, help: "" };
      if (typeof value === "number") return [{ ...base, kind: "number" }];
      if (typeof value === "boolean") return [{ ...base, kind: "yes-no" }];
      return typeof value === "string" ? [{ ...base, kind: "text" }] : [];
    });
  return (
    <section aria-label="The chosen object" className="space-y-2 border-b border-dim-rule pb-3 text-[12.5px]">
      {objects.length === 1 ? (
        <div className="grid grid-cols-4 gap-1.5">
          {numbersOf(first.shape, size).map(({ name, value, with: changed }) => (
            <label key={name} className="block">
              <span className="block text-[11.5px] text-dim-ink-2">{name}</span>
              <SettledNumber
                value={Number(value.toFixed(2))}
                min={name === "width" || name === "height" ? 0.01 : -1e6}
                onSettle={(next) => onSteps([{ do: "set-shape", uid: first.uid, shape: changed(next) }])}
              />
            </label>
          ))}
        </div>
      ) : null}
      <div className="flex flex-wrap gap-x-3 gap-y-1">
        {objectFlags
          .filter((flag) => flag !== "confidence")
          .map((flag) => (
            <label key={flag} className="flex items-center gap-1">
              <input
                type="checkbox"
                checked={shared((object) => object[flag] === true) ?? false}
                onChange={({ target }) =>
                  onSteps(
                    objects.map(({ uid }) => ({ do: "set-flag", uid, flag, value: target.checked ? true : null })),
                  )
                }
              />
              {flag}
            </label>
          ))}
      </div>
      {[...schemas, ...undeclared].map((schema) => (
        <AttributeField
          key={schema.name}
          schema={schema}
          value={shared((object) => object.attributes?.[schema.name])}
          onSet={(value) => onSteps(objects.map(({ uid }) => ({ do: "set-attribute", uid, name: schema.name, value })))}
        />
      ))}
    </section>
  );
}
