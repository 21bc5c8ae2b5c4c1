"use client";
import type { Plan } from "@larder/core/plans/plan";
import type { ForeseenLosses } from "@larder/core/versions/foreseen-losses";
import { OptionRows, type PackFormat } from "@/features/formats/option-rows";
import { NumberField, SelectField } from "@/ui/field";
import { FindingMark } from "@/ui/marks";
import { problemOf } from "./problem-of";
import { namesIn, Row, ShortText, Tick, type Change } from "./rows";

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

export function PackControls({
  plan,
  change,
  losses,
  formats,
}: {
  plan: Plan;
  change: Change;
  losses: readonly ForeseenLosses[] | undefined;
  formats: readonly PackFormat[];
}) {
  const { pack } = plan;
  const set = (next: Partial<Plan["pack"]>) => {
    const changed = { ...plan, pack: { ...pack, ...next } };
    if (problemOf(changed) === null) change(changed);
  };
  return (
    <>
      <Row>
        <div className="grid grid-cols-2 gap-3">
          <SelectField
            label="Pictures go out as"
            value={pack.images.as}
            options={[
              { value: "same", label: "what they are" },
              { value: "jpg", label: "JPEG" },
              { value: "png", label: "PNG" },
              { value: "webp", label: "WebP" },
            ]}
            onChange={(as) => set({ images: { ...pack.images, as: as as Plan["pack"]["images"]["as"] } })}
          />
          <NumberField
            label="Quality"
            min={1}
            max={100}
            value={pack.images.quality}
            onChange={(quality) => set({ images: { ...pack.images, quality: Math.round(quality) } })}
            className="self-end pb-1"
          />
        </div>
      </Row>
      <Row>
        <div className="flex items-center justify-between gap-2">
          <span>Names</span>
          <ShortText label="Names" value={pack.names} onCommit={(names) => set({ names })} className="w-[200px]" />
        </div>
        <div className="flex items-center justify-between gap-2 pt-1.5">
          <span>Class numbers by</span>
          <ShortText
            label="Class numbers by"
            value={typeof pack.classes === "string" ? pack.classes : pack.classes.join(", ")}
            placeholder="stock, name, count, or a list"
            onCommit={(text) =>
              set({
                classes:
                  text === "stock" || text === "name" || text === "count"
                    ? text
                    : text === ""
                      ? "stock"
                      : namesIn(text),
              })
            }
            className="w-[200px]"
          />
        </div>
      </Row>
      {formats.map((format) => {
        const { name, title } = format;
        const chosen = pack.formats.find((entry) => entry.format === name);
        const foreseen = losses?.find((entry) => entry.format === name);
        const lost = foreseen?.findings;
        return (
          <Row key={name}>
            <Tick
              label={`${name}: ${title}`}
              checked={chosen !== undefined}
              onChange={(next) =>
                set({
                  formats: next
                    ? [...pack.formats, { format: name, options: {} }]
                    : pack.formats.filter((other) => other.format !== name),
                })
              }
            />
            {chosen && format.options.length > 0 ? (
              <OptionRows
                format={format}
                options={chosen.options}
                onChange={(options) =>
                  set({
                    formats: pack.formats.map((entry) => (entry.format === name ? { format: name, options } : entry)),
                  })
                }
              />
            ) : null}
            {chosen
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
            ) : chosen ? null : (
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
