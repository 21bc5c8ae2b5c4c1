import { allChoices, type IntakeChoices } from "@larder/core/intake/choices";
import { Findings } from "@larder/core/model/finding";
import type { Delivery } from "../../db/schema";
import { openOrigin, withStock, type OpenedOrigin } from "./origin";

export function choicesOf(delivery: Pick<Delivery, "choices">): IntakeChoices {
  return allChoices(delivery.choices);
}

/** Opens a delivery that was read before, the way it was read. */
export async function openDelivery(delivery: Delivery): Promise<OpenedOrigin> {
  const opened = await openOrigin(delivery, choicesOf(delivery), new Findings());
  return delivery.sheet?.againstStock ? withStock(opened, delivery.collectionId) : opened;
}

const idleMs = 20_000;
const openDeliveries = new Map<
  string,
  { opened: Promise<OpenedOrigin>; users: number; timer: NodeJS.Timeout | null }
>();

/**
 * Runs `work` on a delivery's files, which stay open for a moment afterwards: a sheet asks for one preview after
 * the other, and opening means reading an archive's whole directory.
 */
export async function withDelivery<T>(delivery: Delivery, work: (opened: OpenedOrigin) => Promise<T>): Promise<T> {
  const key = `${delivery.id} ${delivery.sheet?.readAt ?? ""}`;
  let entry = openDeliveries.get(key);
  if (!entry) {
    entry = { opened: openDelivery(delivery), users: 0, timer: null };
    openDeliveries.set(key, entry);
    // One that could not be opened is tried anew the next time.
    entry.opened.catch(() => openDeliveries.delete(key));
  }
  const opened = entry;
  opened.users++;
  if (opened.timer) clearTimeout(opened.timer);
  try {
    return await work(await opened.opened);
  } finally {
    opened.users--;
    if (opened.users === 0) {
      opened.timer = setTimeout(() => {
        if (openDeliveries.get(key) === opened) openDeliveries.delete(key);
        void opened.opened.then(
          ({ close }) => close(),
          () => undefined,
        );
      }, idleMs);
      opened.timer.unref();
    }
  }
}
