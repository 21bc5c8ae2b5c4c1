import type { IntakeChoices } from "@larder/core/intake/choices";
import type { Delivery } from "@larder/server/db/schema";
import type { Wire } from "@/features/live/queries";

export type DeliveryRow = Wire<Delivery>;
/** Changes some of what is decided about the delivery. */
export type Decide = (choices: Partial<IntakeChoices>) => void;
/** A class's colour by its name in the delivery. */
export type ClassLook = ReadonlyMap<string, string>;
