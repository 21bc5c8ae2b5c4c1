"use client";
import { Menu, MenuItem, MenuRule } from "@/ui/menu";
import { Button } from "@/ui/button";

/** The orders of the grid by their names in the address; `-` turns one round. */
const orders: readonly { sort: string; says: string }[] = [
  { sort: "arrival", says: "as they came in" },
  { sort: "-arrival", says: "newest in stock first" },
  { sort: "name", says: "by name" },
  { sort: "delivery", says: "by delivery" },
  { sort: "taken", says: "oldest picture first" },
  { sort: "-taken", says: "newest picture first" },
  { sort: "-objects", says: "most objects first" },
  { sort: "objects", says: "fewest objects first" },
  { sort: "confidence", says: "least sure first" },
  { sort: "-unlike", says: "most unlike their class first" },
];

const mostSeeds = 1_000_000;

/** In which order the grid stands; at random, each press deals anew. */
export function SortMenu({ sort, onSort }: { sort: string; onSort: (sort: string, more?: { seed?: number }) => void }) {
  const says =
    sort === "random"
      ? "at random"
      : sort === "like"
        ? "most alike first"
        : (orders.find((order) => order.sort === sort)?.says ?? "as they came in");
  return (
    <Menu trigger={<Button small>Order: {says}</Button>}>
      {orders.map((order) => (
        <MenuItem key={order.sort} onSelect={() => onSort(order.sort)}>
          {order.says}
        </MenuItem>
      ))}
      <MenuRule />
      <MenuItem onSelect={() => onSort("random", { seed: 1 + Math.floor(Math.random() * mostSeeds) })}>
        {sort === "random" ? "at random, dealt anew" : "at random"}
      </MenuItem>
    </Menu>
  );
}
