"use client";
import type { CutoutGroup, CutoutOrder } from "@larder/core/snapshot/cutout-group";
import { Button } from "@/ui/button";
import { Menu, MenuItem } from "@/ui/menu";

type Order = { by: CutoutOrder; down: boolean };

const ordersOf = (group: CutoutGroup["of"]): readonly (Order & { says: string })[] => [
  { by: "outlying", down: true, says: "what stands out first" },
  { by: "outlying", down: false, says: "the most usual first" },
  { by: "other", down: false, says: `nearer another ${group === "attribute" ? "value" : "class"} first` },
  { by: "size", down: true, says: "largest first" },
  { by: "size", down: false, says: "smallest first" },
  { by: "confidence", down: false, says: "least sure first" },
  { by: "delivery", down: false, says: "by delivery" },
];

/** In which order cut-outs stand. */
export function CutoutOrderMenu({
  by,
  down,
  of,
  onOrder,
}: Order & { of: CutoutGroup["of"]; onOrder: (order: Order) => void }) {
  const orders = ordersOf(of);
  const now = orders.find((order) => order.by === by && order.down === down);
  return (
    <Menu trigger={<Button small>Order: {(now?.says ?? by).replace(/ first$/, "")}</Button>}>
      {orders.map((order) => (
        <MenuItem key={order.says} onSelect={() => onOrder({ by: order.by, down: order.down })}>
          {order.says}
        </MenuItem>
      ))}
    </Menu>
  );
}
