/** The kinds of images that an intake sheet can show by themselves. */
export const itemFilters = [
  "all",
  "labeled",
  "unlabeled",
  "empty",
  "findings",
  "in-stock",
  "repeats",
  "near-copies",
  "unreadable",
  "left-out",
] as const;
export type ItemFilter = (typeof itemFilters)[number];
