import { selecting } from "@larder/core/selection/dimensions";

type Chosen = Parameters<typeof selecting>[0];

const query = (chosen: Chosen) => new URLSearchParams({ where: selecting(chosen) }).toString();

/** The address of a collection's stock with these bars chosen. */
export const stockLink = (collection: number, chosen: Chosen): string => `/c/${collection}/stock?${query(chosen)}`;

/** The address of the bench with the images of these bars as its row. */
export const benchLink = (collection: number, chosen: Chosen): string => `/c/${collection}/bench?${query(chosen)}`;
