"use client";
import type { IntakeChoices, ClassDecision } from "@larder/core/intake/choices";
import { ownEntry } from "@larder/core/model/own-entry";
import { namesForNumbers } from "@larder/core/relabel/names-for-numbers";
import type { SheetNumbers } from "@larder/server/services/intake/sheet-numbers";
import { lookAlikes } from "@larder/core/relabel/look-alike";
import { useState } from "react";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { useClasses } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { classColour } from "@/ui/colours";
import { PickFile } from "@/ui/pick-file";
import { count, number } from "@/ui/words";
import type { ClassLook, Decide, DeliveryRow } from "./delivery-row";

/** Classes of the collection that the delivery does not have are named up to here. */
const listedAtMost = 30;

type Match = SheetNumbers["matches"][number];

/** Why a class is proposed, and whether somebody has to say so. */
function reasonWords(
  match: Match,
  decision: ClassDecision | undefined,
  target: string | null,
  exists: boolean,
  rememberedFrom: string | null,
): { words: string; confirm: boolean } {
  if (decision) {
    if (match.remembered && rememberedFrom) return { words: `as in ${rememberedFrom}`, confirm: false };
    if ("leaveOut" in decision) return { words: "left out", confirm: false };
    if (target === match.name) return { words: exists ? "same" : "new to this collection", confirm: false };
    return { words: exists ? "merged into it" : "renamed, new to this collection", confirm: false };
  }
  switch (match.reason) {
    case "same":
      return { words: "same", confirm: false };
    case "new":
      return { words: "new to this collection", confirm: false };
    case "case":
      return { words: `same but for case as ${match.to}?`, confirm: true };
    case "spelling":
      return { words: `same but for spaces and signs as ${match.to}?`, confirm: true };
    case "plural":
      return { words: `plural of ${match.to}?`, confirm: true };
    case "letters":
      return {
        words: `${match.letters === 1 ? "one letter" : `${match.letters} letters`} off ${match.to}?`,
        confirm: true,
      };
  }
}

const leaveOutValue = " leave out";
const renameValue = " another name";

/** Where a class of the delivery goes; null where it is left out. */
function goesTo(choices: IntakeChoices, name: string): string | null {
  const decision = ownEntry(choices.classes, name);
  return decision === null ? name : "to" in decision ? decision.to : null;
}

function MatchRow({
  delivery,
  match,
  choices,
  decide,
  known,
  look,
  rememberedFrom,
  alike,
  locked,
}: {
  delivery: DeliveryRow;
  /** A class of the same delivery that this one looks like. */
  alike: string | null;
  match: Match;
  choices: IntakeChoices;
  decide: Decide;
  known: readonly { name: string; colour: number }[];
  look: ClassLook;
  rememberedFrom: string | null;
  locked: boolean;
}) {
  const row = delivery.sheet?.classes.find(({ name }) => name === match.name);
  const decision = ownEntry(choices.classes, match.name) ?? undefined;
  const target = decision === undefined ? match.name : "to" in decision ? decision.to : null;
  const exists = known.some(({ name }) => name === target);
  const said = reasonWords(match, decision, target, exists, rememberedFrom);
  const within = alike !== null && decision === undefined && !said.confirm ? alike : null;
  const words = within === null ? said.words : `looks like ${within}, of the same delivery`;
  const confirm = said.confirm || within !== null;
  const [naming, setNaming] = useState(false);
  const say = (next: ClassDecision | null) => {
    const { [match.name]: _, ...rest } = choices.classes;
    decide({ classes: next === null ? rest : { ...rest, [match.name]: next } });
  };
  const names = [
    ...new Set([
      ...known.map(({ name }) => name),
      ...(target !== null && !exists ? [target] : []),
      match.name,
      ...(delivery.sheet?.classes.map(({ name }) => name) ?? []),
    ]),
  ];
  /** Where the class it looks like goes itself. */
  const mergeInto = match.to ?? (within === null ? null : goesTo(choices, within));
  const colour = known.find(({ name }) => name === target);
  return (
    <tr>
      <td>{match.name}</td>
      <td className="number">{number(row?.images ?? 0)}</td>
      <td className="number">{number(row?.objects ?? 0)}</td>
      <td className="w-8 text-center text-ink-3" aria-hidden="true">
        →
      </td>
      <td>
        <span className="flex items-center gap-2">
          <span
            aria-hidden="true"
            className="inline-block size-2.5 shrink-0 rounded-[2px]"
            style={{
              background: target === null ? "transparent" : colour ? classColour(colour.colour) : look.get(match.name),
            }}
          />
          {naming ? (
            <input
              aria-label={`New name of ${match.name}`}
              autoFocus
              maxLength={200}
              defaultValue={target ?? match.name}
              onBlur={(event) => {
                setNaming(false);
                const name = event.target.value.trim();
                if (name !== "" && name !== target) say({ to: name });
              }}
              onKeyDown={(event) => {
                if (event.key === "Enter") event.currentTarget.blur();
                if (event.key === "Escape") setNaming(false);
              }}
              className="h-[28px] w-[220px] rounded-md border border-rule-strong bg-sheet px-2"
            />
          ) : null}
          <select
            hidden={naming}
            aria-label={`${match.name} becomes`}
            disabled={locked}
            value={target ?? leaveOutValue}
            onChange={(event) => {
              if (event.target.value === renameValue) setNaming(true);
              else say(event.target.value === leaveOutValue ? { leaveOut: true } : { to: event.target.value });
            }}
            className={`h-[28px] w-[220px] rounded-md border bg-sheet px-2 disabled:opacity-70 ${confirm ? "border-look" : "border-rule-strong"}`}
          >
            {names.map((name) => (
              <option key={name} value={name}>
                {known.some((entry) => entry.name === name) ? name : `${name} (new)`}
              </option>
            ))}
            <option value={renameValue}>another name …</option>
            <option value={leaveOutValue}>leave out</option>
          </select>
        </span>
      </td>
      <td className={confirm ? "text-look" : "text-ink-3"}>
        <span className="flex items-center gap-2">
          {words}
          {confirm && !locked && mergeInto !== null ? (
            <>
              <Button small onClick={() => say({ to: mergeInto })}>
                Merge into {mergeInto}
              </Button>
              <Button small look="quiet" onClick={() => say({ to: match.name })}>
                Keep apart
              </Button>
            </>
          ) : null}
        </span>
      </td>
    </tr>
  );
}

/**
 * Incoming classes and where each goes. Look-alikes are pointed out and wait for a word; nothing is merged by itself.
 */
export function ClassMatch({
  delivery,
  choices,
  numbers,
  decide,
  look,
  collectionName,
}: {
  delivery: DeliveryRow;
  choices: IntakeChoices;
  numbers: SheetNumbers | undefined;
  decide: Decide;
  look: ClassLook;
  collectionName: string;
}) {
  const { data: known } = useClasses(delivery.collectionId);
  const matches = numbers?.matches ?? [];
  const alike = new Map(lookAlikes(matches.map(({ name }) => name)).map(([first, other]) => [other, first]));
  const targets = new Set(matches.map(({ name }) => goesTo(choices, name)));
  const others = (known ?? []).filter(({ name }) => !targets.has(name));
  if (!delivery.sheet || delivery.sheet.classes.length === 0) return null;
  const locked = delivery.status !== "read";
  const load = async (file: File) => {
    try {
      const { names, added } = await api<{ names: string[]; added: number }>(
        `/api/collections/${delivery.collectionId}/classes`,
        { method: "POST", body: { text: await file.text(), fileName: file.name } },
      );
      const named = namesForNumbers(
        matches.map(({ name }) => name),
        names,
      );
      if (named.size > 0)
        decide({
          classes: { ...choices.classes, ...Object.fromEntries([...named].map(([name, to]) => [name, { to }])) },
        });
      toast(
        `${count(added, "class", "classes")} added from ${file.name}${named.size > 0 ? `; ${count(named.size, "number")} got a name` : ""}.`,
      );
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  return (
    <section id="classes" aria-label="Classes" className="border-t border-rule px-5 py-4">
      <div className="mb-1 flex items-center gap-3">
        <h2 className="text-[15px]">Classes</h2>
        {locked ? null : (
          <PickFile label="Class list" accept=".txt,.csv,.tsv,.names" quiet onPick={(file) => void load(file)}>
            Load a class list
          </PickFile>
        )}
      </div>
      <table className="ledger">
        <thead>
          <tr>
            <th>In the delivery</th>
            <th className="number">Images</th>
            <th className="number">Objects</th>
            <th aria-hidden="true" />
            <th>In {collectionName}</th>
            <th className="w-[40%]">
              <span className="sr-only">Why</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {matches.map((match) => (
            <MatchRow
              key={match.name}
              delivery={delivery}
              match={match}
              choices={choices}
              decide={decide}
              known={known ?? []}
              look={look}
              rememberedFrom={numbers?.rememberedFrom ?? null}
              alike={alike.get(match.name) ?? null}
              locked={locked}
            />
          ))}
        </tbody>
      </table>
      {others.length > 0 ? (
        <p className="mt-2 text-small text-ink-3">
          Also in {collectionName}, and not in this delivery:{" "}
          {others
            .slice(0, listedAtMost)
            .map(({ name }) => name)
            .join(", ")}
          {others.length > listedAtMost ? ` and ${number(others.length - listedAtMost)} more` : ""}.
        </p>
      ) : null}
    </section>
  );
}
