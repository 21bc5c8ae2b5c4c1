"use client";
import type { DataCard as Card } from "@larder/core/versions/data-card";
import type { ReactNode } from "react";
import { Button } from "@/ui/button";
import { SplitMark } from "@/ui/marks";
import { count, number } from "@/ui/words";

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section aria-label={title} className="border-t border-rule pt-3 pb-4">
      <h3 className="mb-1.5 text-[14px]">{title}</h3>
      {children}
    </section>
  );
}

const facts = { licence: "Licence", citation: "Cite as", source: "Source", notes: "Notes" } as const;

/** What a data set is: the card that lies in its packages, on the version's page. */
export function DataCard({ card, version }: { card: Card; version: number }) {
  const classes = Object.entries(card.byClass).sort(([, a], [, b]) => b - a);
  const most = Math.max(1, ...classes.map(([, labels]) => labels));
  return (
    <article aria-label="Data card">
      <div className="flex items-baseline gap-3 pb-2">
        <h2 className="mr-auto text-[17px]">Data card</h2>
        {(["md", "html"] as const).map((kind) => (
          <Button key={kind} small look="quiet" asChild>
            <a href={`/api/versions/${version}/card?as=${kind}`} download={`DATA-CARD.${kind}`}>
              {kind === "md" ? "Markdown" : "HTML"}
            </a>
          </Button>
        ))}
      </div>
      <Part title="Splits">
        <ul className="flex flex-wrap gap-x-6 gap-y-1">
          {(["train", "val", "test"] as const).map((split) => {
            const held = card.bySplit[split];
            return held ? (
              <li key={split} className="flex items-center gap-2">
                <SplitMark split={split} /> {count(held.images, "image")}, {count(held.objects, "object")}
              </li>
            ) : null;
          })}
        </ul>
      </Part>
      <Part title={`${count(classes.length, "class", "classes")}`}>
        <ul className="grid grid-cols-2 gap-x-6">
          {classes.map(([name, labels]) => (
            <li key={name} className="flex items-center gap-2 border-b border-rule py-1">
              <span className="flex w-[96px] shrink-0 gap-1">
                {(Object.hasOwn(card.pictures, name) ? (card.pictures[name] ?? []) : []).map((address) => (
                  <img
                    key={address.slice(-64)}
                    src={address}
                    alt=""
                    className="size-[44px] rounded-sm bg-dim object-cover"
                  />
                ))}
              </span>
              <span className="min-w-0 grow">
                <span className="block truncate" title={name}>
                  {name}
                </span>
                <span className="block h-[4px] bg-flow" style={{ width: `${(labels / most) * 100}%` }} />
              </span>
              <span>{number(labels)}</span>
            </li>
          ))}
        </ul>
      </Part>
      <Part title="Where the images come from">
        <ul>
          {card.sources.map((source) => (
            <li key={source.name} className="pb-1.5">
              <b className="font-semibold">{source.name}</b>, {count(source.images, "image")}
              {(Object.keys(facts) as (keyof typeof facts)[]).map((fact) =>
                source[fact] ? (
                  <p key={fact} className="pl-4 text-ink-2">
                    {facts[fact]}: {source[fact]}
                  </p>
                ) : null,
              )}
            </li>
          ))}
        </ul>
      </Part>
      <Part title="What checks found when it was frozen">
        {card.faults.length === 0 ? (
          <p className="text-ink-3">Nothing.</p>
        ) : (
          <ul className="list-disc pl-5">
            {card.faults.map((fault) => (
              <li key={fault}>{fault}</li>
            ))}
          </ul>
        )}
      </Part>
      {card.plan === null ? null : (
        <Part title="What was done">
          <pre
            tabIndex={0}
            aria-label="The plan"
            className="max-h-[320px] overflow-auto rounded-md border border-rule bg-sheet p-3 font-mono text-[12px] leading-[1.5]"
          >
            {card.plan}
          </pre>
        </Part>
      )}
    </article>
  );
}
