import type { Package } from "@larder/server/services/packages";
import type { Wire } from "@/features/live/queries";

/** A package as JSON brings it. */
export type Pack = Wire<Package>;
