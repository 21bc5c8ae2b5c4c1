"use client";
import type { IntakeChoices } from "@larder/core/intake/choices";
import type { SheetNumbers } from "@larder/server/services/intake/sheet-numbers";
import { useState, type ReactNode } from "react";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { NumberField, SelectField } from "@/ui/field";
import { Pill } from "@/ui/pill";
import { PathText } from "@/ui/path-text";
import { count, number } from "@/ui/words";
import { ReadingOptions } from "./reading-options";
import type { Decide, DeliveryRow } from "./delivery-row";

export function Fact({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="grid grid-cols-[92px_1fr] gap-2 py-[3px]">
      <dt className="text-ink-3">{label}</dt>
      <dd className="min-w-0 [overflow-wrap:anywhere]">{children}</dd>
    </div>
  );
}

const formatNames = [
  "coco",
  "voc",
  "yolo",
  "yolo-seg",
  "yolo-pose",
  "yolo-obb",
  "class-folders",
  "csv-boxes",
  "csv-labels",
  "open-images",
  "kitti",
  "masks",
  "tfrecord",
  "webdataset",
  "image-list",
  "jsonl",
  "parquet",
  "images-only",
] as const;

/** Another way to read the delivery: what else fits comes first, then everything there is. */
function ReadOtherwise({
  delivery,
  choices,
  decide,
  onDone,
}: {
  delivery: DeliveryRow;
  choices: IntakeChoices;
  decide: Decide;
  onDone: () => void;
}) {
  const others = delivery.sheet?.otherFormats ?? [];
  const [format, setFormat] = useState(choices.format ?? delivery.sheet?.format ?? "coco");
  const [options, setOptions] = useState(choices.options);
  const [folders, setFolders] = useState(choices.folderClasses);
  const [resolution, setResolution] = useState(choices.pageResolution);
  const pages =
    /\.pdf$/i.test(delivery.source) || (delivery.sheet?.classes.some(({ name }) => name === "word") ?? false);
  const fits = others.find((other) => other.format === format);
  const rest = formatNames.filter(
    (name) => name !== delivery.sheet?.format && !others.some((other) => other.format === name),
  );
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onDone()}
      title="Read it otherwise"
      description="Nothing is lost by trying: the sheet shows what comes of it, and it can be read otherwise again."
    >
      <SelectField
        label="Format"
        value={format}
        onChange={setFormat}
        options={[
          { value: delivery.sheet?.format ?? "coco", label: `${delivery.sheet?.format ?? ""}: as it is read now` },
          ...others.map((other) => ({ value: other.format, label: `${other.format}: fits as well` })),
          ...rest.map((name) => ({ value: name, label: name })),
        ]}
      />
      <p className="mt-1 min-h-5 text-small text-ink-3">{fits?.reason ?? ""}</p>
      <ReadingOptions format={format} options={options} onChange={setOptions} />
      <label className="mt-3 flex items-center gap-2">
        <input
          type="checkbox"
          checked={folders}
          onChange={(event) => setFolders(event.target.checked)}
          className="size-4 accent-(--color-act)"
        />
        Folders that are named by a class give their images that class
      </label>
      {pages ? (
        <NumberField
          className="mt-3"
          label="Pages become images at"
          unit="dpi"
          min={36}
          max={600}
          value={resolution}
          onChange={setResolution}
        />
      ) : null}
      <div className="mt-5 flex justify-end gap-2">
        {choices.format !== null ? (
          <Button
            className="mr-auto"
            onClick={() => {
              decide({ format: null });
              onDone();
            }}
          >
            Find out again
          </Button>
        ) : null}
        <Button onClick={onDone}>Cancel</Button>
        <Button
          look="go"
          onClick={() => {
            decide({
              format: format === delivery.sheet?.format ? choices.format : format,
              folderClasses: folders,
              options,
              pageResolution: resolution,
            });
            onDone();
          }}
        >
          Read it so
        </Button>
      </div>
    </Dialog>
  );
}

function Names({ names, of }: { names: readonly string[]; of: number }) {
  return (
    <div className="max-h-[26vh] overflow-auto rounded-md border border-rule px-3 py-2 font-mono text-small">
      {names.map((name) => (
        <p key={name} className="truncate" title={name}>
          {name}
        </p>
      ))}
      {of > names.length ? <p className="font-text text-ink-3">and {number(of - names.length)} more</p> : null}
    </div>
  );
}

/** Which files were read as annotations, which were not, and which pictures annotations name in vain. */
function MatchedFiles({ delivery, onDone }: { delivery: DeliveryRow; onDone: () => void }) {
  const { sheet } = delivery;
  if (!sheet) return null;
  const parts: [string, readonly string[], number][] = [
    [`${count(sheet.files.used, "file")} read as annotations`, sheet.files.usedNames, sheet.files.used],
    [`${count(sheet.files.unused, "file")} not read`, sheet.files.unusedNames, sheet.files.unused],
    [
      `${count(sheet.unmatched.count, "picture")} that annotations name but that ${sheet.unmatched.count === 1 ? "is" : "are"} not there`,
      sheet.unmatched.names,
      sheet.unmatched.count,
    ],
  ];
  return (
    <Dialog open onOpenChange={(open) => !open && onDone()} title="Files and what they matched">
      {parts.map(([title, names, of]) => (
        <section key={title} className="mb-4">
          <h3 className="mb-1 font-semibold">{title}</h3>
          {of > 0 ? <Names names={names} of={of} /> : null}
        </section>
      ))}
    </Dialog>
  );
}

function Splits({
  delivery,
  choices,
  decide,
  locked,
}: {
  delivery: DeliveryRow;
  choices: IntakeChoices;
  decide: Decide;
  locked: boolean;
}) {
  const { sheet } = delivery;
  const [ratio, setRatio] = useState(
    choices.splits.mode === "deal" ? choices.splits.ratio : { train: 70, val: 20, test: 10 },
  );
  if (!sheet) return null;
  const came = sheet.splits.train + sheet.splits.val + sheet.splits.test > 0;
  const { splits } = choices;
  const keepWords = came
    ? `keep ${number(sheet.splits.train)} / ${number(sheet.splits.val)} / ${number(sheet.splits.test)}`
    : "as they came: none";
  return (
    <>
      <span className="flex flex-wrap gap-1">
        <Pill pressed={splits.mode === "keep"} disabled={locked} onClick={() => decide({ splits: { mode: "keep" } })}>
          {keepWords}
        </Pill>
        <Pill
          pressed={splits.mode === "deal"}
          disabled={locked}
          onClick={() => decide({ splits: { mode: "deal", ratio, seed: 1 } })}
        >
          deal by ratio
        </Pill>
        {(["train", "val", "test"] as const).map((split) => (
          <Pill
            key={split}
            pressed={splits.mode === "all" && splits.split === split}
            disabled={locked}
            onClick={() => decide({ splits: { mode: "all", split } })}
          >
            all {split}
          </Pill>
        ))}
        {came ? (
          <Pill pressed={splits.mode === "none"} disabled={locked} onClick={() => decide({ splits: { mode: "none" } })}>
            none
          </Pill>
        ) : null}
      </span>
      {splits.mode === "deal" ? (
        <span className="mt-2 block">
          {(["train", "val", "test"] as const).map((split) => (
            <NumberField
              key={split}
              className="py-0.5"
              label={split}
              unit="%"
              min={0}
              max={100}
              value={ratio[split]}
              onChange={(value) => {
                const next = { ...ratio, [split]: value };
                setRatio(next);
                if (next.train + next.val + next.test > 0) decide({ splits: { mode: "deal", ratio: next, seed: 1 } });
              }}
            />
          ))}
          <span className="text-small text-ink-3">Dealt by class; what is in stock stays where it is.</span>
        </span>
      ) : null}
    </>
  );
}

const sameBytesWords = {
  skip: "skip",
  fill: "label if unlabeled",
  add: "add labels",
  replace: "replace labels",
} as const;

/** What was found, how it is read, and what becomes of splits and of pictures that are in stock already. */
export function HowItIsRead({
  delivery,
  choices,
  numbers,
  decide,
}: {
  delivery: DeliveryRow;
  choices: IntakeChoices;
  numbers: SheetNumbers | undefined;
  decide: Decide;
}) {
  const { sheet, taken } = delivery;
  const [otherwise, setOtherwise] = useState(false);
  const [files, setFiles] = useState(false);
  if (!sheet) return null;
  const locked = delivery.status !== "read";
  const now = locked ? undefined : numbers;
  return (
    <section className="p-5">
      <h2 className="mb-2 text-[15px]">How it is read</h2>
      <dl>
        <Fact label="Format">
          <b className="font-semibold">{sheet.format}</b>{" "}
          <span className="text-ink-3">
            <PathText>{sheet.reason}</PathText>
          </span>
          {!locked && sheet.format !== "collection" ? (
            <button
              type="button"
              className="block text-ink-2 underline hover:text-ink"
              onClick={() => setOtherwise(true)}
            >
              read it otherwise
            </button>
          ) : null}
        </Fact>
        <Fact label="Files">
          <button type="button" className="text-left underline hover:text-ink" onClick={() => setFiles(true)}>
            {count(sheet.files.used, "annotation file")}
          </button>
          {sheet.unmatched.count + sheet.files.unused > 0 ? (
            <span className="text-look"> {number(sheet.unmatched.count + sheet.files.unused)} unmatched</span>
          ) : null}
        </Fact>
        <Fact label="Images">
          {number(now?.all ?? sheet.images)}
          {now && now.inStock > 0 ? <span className="text-ink-3"> {number(now.inStock)} in stock already</span> : null}
          {sheet.unchanged > 0 ? (
            <span className="block text-ink-3">{number(sheet.unchanged)} more are as they were</span>
          ) : null}
        </Fact>
        <Fact label="Labeled">{number(now?.labeled ?? sheet.labeled)}</Fact>
        <Fact label="Empty">{number(now?.empty ?? sheet.empty)}</Fact>
        <Fact label="Unlabeled">{number(now?.unlabeled ?? sheet.unlabeled)}</Fact>
        <Fact label="Objects">{number(sheet.objects)}</Fact>
        {sheet.folderClasses > 0 ? (
          <Fact label="By folder">{count(sheet.folderClasses, "image")} labeled by folder name</Fact>
        ) : null}
        {choices.imageClass !== null ? <Fact label="All take">{choices.imageClass}</Fact> : null}
        <Fact label="Splits">
          <Splits delivery={delivery} choices={choices} decide={decide} locked={locked} />
        </Fact>
        <Fact label="In stock">
          <span className="flex flex-wrap gap-1">
            {(["skip", "fill", "add", "replace"] as const).map((mode) => (
              <Pill
                key={mode}
                pressed={choices.sameBytes === mode}
                disabled={locked}
                onClick={() => decide({ sameBytes: mode })}
              >
                {sameBytesWords[mode]}
              </Pill>
            ))}
          </span>
        </Fact>
        {taken ? (
          <Fact label="Taken in">
            {count(taken.images, "image")}, {count(taken.objects, "object")}
            {(taken.relabeled ?? 0) > 0 ? `; ${number(taken.relabeled ?? 0)} in stock got labels` : ""}
            {taken.skipped > 0 ? `; ${number(taken.skipped)} in stock already` : ""}
            {taken.leftOut > 0 ? `; ${number(taken.leftOut)} left out` : ""}
          </Fact>
        ) : null}
      </dl>
      {otherwise ? (
        <ReadOtherwise delivery={delivery} choices={choices} decide={decide} onDone={() => setOtherwise(false)} />
      ) : null}
      {files ? <MatchedFiles delivery={delivery} onDone={() => setFiles(false)} /> : null}
    </section>
  );
}
