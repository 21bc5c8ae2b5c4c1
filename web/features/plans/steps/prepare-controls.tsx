"use client";
import { prepareTones, resizeModes, type Plan } from "@larder/core/plans/plan";
import { Choice } from "@/ui/choice";
import { NumberField, SelectField } from "@/ui/field";
import { problemOf } from "./problem-of";
import { Hint, Row, Tick, type Change } from "./rows";

const resizeWords: Record<(typeof resizeModes)[number], { label: string; hint: string }> = {
  fit: { label: "inside the frame", hint: "Each picture keeps its shape and ends at the frame's nearer side." },
  pad: { label: "inside, with a margin", hint: "Each picture lies in the middle of a frame of exactly this size." },
  stretch: { label: "distorted", hint: "Every picture gets exactly this size; shapes may change." },
  fill: { label: "filling the frame", hint: "The middle is cut out in the frame's shape." },
  longest: { label: "by the longer side", hint: "The longer side gets this length." },
};
const toneWords: Record<(typeof prepareTones)[number], string> = {
  none: "as it is",
  stretch: "stretched",
  equalize: "evened out",
  adaptive: "evened out by place",
};

export function PrepareControls({ plan, change }: { plan: Plan; change: Change }) {
  const { prepare } = plan;
  const set = (next: Partial<Plan["prepare"]>) => {
    const changed = { ...plan, prepare: { ...prepare, ...next } };
    if (problemOf(changed) === null) change(changed);
  };
  const { resize, tiles, crop, tone } = prepare;
  const sized = resize ?? { mode: "fit" as const, width: 640, height: 640, larger: false };
  return (
    <>
      <Row>
        <SelectField
          label="Size"
          value={resize?.mode ?? "none"}
          options={[
            { value: "none", label: "as it is" },
            ...resizeModes.map((value) => ({ value, label: resizeWords[value].label })),
          ]}
          onChange={(mode) =>
            set({ resize: mode === "none" ? null : { ...sized, mode: mode as (typeof resizeModes)[number] } })
          }
        />
        {resize ? <Hint>{resizeWords[resize.mode].hint} Labels move along.</Hint> : null}
      </Row>
      {resize ? (
        <Row>
          <NumberField
            label={resize.mode === "longest" ? "Longer side" : "Width"}
            unit="px"
            min={16}
            max={16_384}
            value={resize.width}
            onChange={(width) => set({ resize: { ...resize, width: Math.round(width) } })}
          />
          {resize.mode === "longest" ? null : (
            <NumberField
              label="Height"
              unit="px"
              min={16}
              max={16_384}
              value={resize.height}
              onChange={(height) => set({ resize: { ...resize, height: Math.round(height) } })}
              className="pt-2"
            />
          )}
          <div className="pt-2">
            <Tick
              label="Enlarge smaller pictures"
              checked={resize.larger}
              onChange={(larger) => set({ resize: { ...resize, larger } })}
            />
          </div>
        </Row>
      ) : null}
      <Row>
        <p className="pb-1.5">Cut off, of each side</p>
        <div className="grid grid-cols-2 gap-x-4 gap-y-1.5">
          {(["left", "right", "top", "bottom"] as const).map((side) => (
            <NumberField
              key={side}
              label={side}
              unit="%"
              min={0}
              max={99}
              value={Number((crop[side] * 100).toFixed(2))}
              onChange={(share) => set({ crop: { ...crop, [side]: share / 100 } })}
            />
          ))}
        </div>
      </Row>
      <Row>
        <SelectField
          label="Tiles"
          value={tiles === null ? "none" : "width" in tiles ? "fixed" : "grid"}
          options={[
            { value: "none", label: "none: one picture" },
            { value: "grid", label: "columns and rows" },
            { value: "fixed", label: "of a fixed size" },
          ]}
          onChange={(kind) =>
            set({
              tiles:
                kind === "none"
                  ? null
                  : kind === "grid"
                    ? { columns: 2, rows: 2, overlap: 0.1, empty: "keep" }
                    : { width: 640, height: 640, overlap: 64, empty: "keep" },
            })
          }
        />
        {tiles ? <TileRows tiles={tiles} set={(next) => set({ tiles: next })} /> : null}
      </Row>
      <Row>
        <SelectField
          label="Beyond the picture"
          value={prepare.outside === "edge" || prepare.outside === "mirror" ? prepare.outside : "colour"}
          options={[
            { value: "edge", label: "its edge goes on" },
            { value: "mirror", label: "mirrored" },
            { value: "colour", label: "a colour" },
          ]}
          onChange={(outside) => set({ outside: outside === "colour" ? "#808080" : outside })}
        />
        {prepare.outside.startsWith("#") ? (
          <input
            type="color"
            aria-label="Colour beyond the picture"
            value={prepare.outside}
            onChange={(event) => set({ outside: event.target.value })}
            className="mt-1.5 h-[26px] w-[72px] rounded-md border border-rule-strong bg-sheet"
          />
        ) : null}
      </Row>
      <Row>
        <Tick label="Grey" checked={tone.grey} onChange={(grey) => set({ tone: { ...tone, grey } })} />
        <div className="h-2" />
        <SelectField
          label="Contrast"
          value={tone.contrast}
          options={prepareTones.map((value) => ({ value, label: toneWords[value] }))}
          onChange={(contrast) => set({ tone: { ...tone, contrast: contrast as (typeof prepareTones)[number] } })}
        />
      </Row>
      <Row>
        <NumberField
          label="An object stays while visible"
          unit="%"
          min={0}
          max={100}
          step={5}
          value={Math.round(plan.visible * 100)}
          onChange={(share) => change({ ...plan, visible: share / 100 })}
        />
        <Hint>Of its area before a cut, a tile or a turn; what is less goes, and is counted.</Hint>
      </Row>
    </>
  );
}

type Tiles = NonNullable<Plan["prepare"]["tiles"]>;

function TileRows({ tiles, set }: { tiles: Tiles; set: (tiles: Tiles) => void }) {
  const fixed = "width" in tiles;
  const shared = tiles.overlap < 1;
  return (
    <div className="flex flex-col gap-1.5 pt-2">
      {fixed ? (
        <>
          <NumberField
            label="Width"
            unit="px"
            min={16}
            max={65_536}
            value={tiles.width}
            onChange={(width) => set({ ...tiles, width: Math.round(width) })}
          />
          <NumberField
            label="Height"
            unit="px"
            min={16}
            max={65_536}
            value={tiles.height}
            onChange={(height) => set({ ...tiles, height: Math.round(height) })}
          />
        </>
      ) : (
        <>
          <NumberField
            label="Columns"
            min={1}
            max={64}
            value={tiles.columns}
            onChange={(columns) => set({ ...tiles, columns: Math.round(columns) })}
          />
          <NumberField
            label="Rows"
            min={1}
            max={64}
            value={tiles.rows}
            onChange={(rows) => set({ ...tiles, rows: Math.round(rows) })}
          />
        </>
      )}
      <NumberField
        label="Overlap"
        unit={shared ? "%" : "px"}
        min={0}
        max={shared ? 95 : 4096}
        value={shared ? Math.round(tiles.overlap * 100) : tiles.overlap}
        onChange={(overlap) => set({ ...tiles, overlap: shared ? overlap / 100 : Math.max(1, Math.round(overlap)) })}
      />
      <div className="flex items-center justify-between gap-2">
        <span>Tiles that hold nothing</span>
        <Choice
          label="Tiles that hold nothing"
          value={tiles.empty}
          onChange={(empty) => set({ ...tiles, empty })}
          options={[
            { value: "keep", label: "Keep" },
            { value: "leave-out", label: "Leave out" },
          ]}
        />
      </div>
    </div>
  );
}
