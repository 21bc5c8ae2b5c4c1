"use client";
import type { LedgerColumn } from "@larder/core/ledger/column";
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { z } from "zod";
import { api } from "@/features/live/api";

const shapeSchema = z.object({ order: z.array(z.string()), widths: z.record(z.string(), z.number()) });
export type LedgerShape = z.infer<typeof shapeSchema>;

const usual: LedgerShape = { order: [], widths: {} };
const keyOf = (collection: number) => `larder-ledger-${collection}`;

function remembered(collection: number): LedgerShape {
  try {
    return shapeSchema.parse(JSON.parse(localStorage.getItem(keyOf(collection)) ?? "null"));
  } catch {
    return usual;
  }
}

/** Columns in the order that somebody gave them; those that came since stand at the end. */
export function inOrder(columns: readonly LedgerColumn[], order: readonly string[]): LedgerColumn[] {
  const place = new Map(order.map((key, at) => [key, at]));
  return [...columns].sort((a, b) => (place.get(a.key) ?? Infinity) - (place.get(b.key) ?? Infinity) || 0);
}

/** The columns of a collection's ledger, in the order and with the widths that were set in this browser. */
export function useColumns(collection: number) {
  const { data, error } = useQuery({
    queryKey: ["ledger-columns", collection],
    queryFn: ({ signal }) => api<LedgerColumn[]>(`/api/collections/${collection}/ledger/columns`, { signal }),
  });
  const [shape, setShape] = useState(() => remembered(collection));
  const columns = useMemo(() => (data ? inOrder(data, shape.order) : null), [data, shape.order]);
  const keep = (change: Partial<LedgerShape>) => {
    const next = { ...shape, ...change };
    localStorage.setItem(keyOf(collection), JSON.stringify(next));
    setShape(next);
  };
  return { columns, error, widths: shape.widths, keep };
}
