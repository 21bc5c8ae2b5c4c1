"use client";
import { parseAsInteger, parseAsNativeArrayOf, parseAsString, useQueryState, useQueryStates } from "nuqs";

// A key a value, as the server is asked too: names may hold any sign, commas included.
const texts = parseAsNativeArrayOf(parseAsString).withDefault([]);
const numbers = parseAsNativeArrayOf(parseAsInteger).withDefault([]);
const parsers = {
  class: texts,
  split: texts,
  state: texts,
  delivery: numbers,
  tag: texts,
  objects: numbers,
  source: texts,
  licence: texts,
  camera: texts,
  place: texts,
  day: texts,
};

export type StockFilterState = {
  class: string[];
  split: string[];
  state: string[];
  delivery: number[];
  tag: string[];
  objects: number[];
  source: string[];
  licence: string[];
  camera: string[];
  place: string[];
  day: string[];
};
export type Dimension = keyof StockFilterState;

const usualSize = 200;

/** The filters of the stock and the size of its tiles, kept in the address; `address` carries both to other pages. */
export function useStockFilter() {
  const [filter, setFilter] = useQueryStates(parsers, { history: "push", clearOnDefault: true });
  const [size, setSize] = useQueryState("size", parseAsInteger.withDefault(usualSize));
  const toggle = (dimension: Dimension, value: string | number) => {
    const current = filter[dimension] as (string | number)[];
    const next = current.includes(value) ? current.filter((entry) => entry !== value) : [...current, value];
    void setFilter({ [dimension]: next.length > 0 ? next : null });
  };
  const clear = () => void setFilter(null);
  const parameters = new URLSearchParams();
  for (const [key, values] of Object.entries(filter)) for (const value of values) parameters.append(key, String(value));
  const active = [...parameters.keys()].length;
  const query = parameters.toString();
  if (size !== usualSize) parameters.set("size", String(size));
  return { filter, toggle, clear, active, query, size, setSize, address: parameters.toString() };
}
