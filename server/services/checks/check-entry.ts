/** A finding as it is shown on the page and sent. */
import type { ShownFinding, ShownProof } from "@larder/core/checks/shown-finding";
import type { Severity } from "@larder/core/model/finding";

export type CheckEntry = {
  /** Stands for it from one stocktake to the next. */
  key: string;
  severity: Severity;
  code: string;
  sentence: string;
  examples: string[];
  count: number;
  /** Which deliveries said it; none for what the stock as a whole shows. */
  deliveries: { id: number; name: string }[];
  /** The selection that shows it; null where none does. */
  where: string | null;
  /** How many images prove it, and the first of them; none for what deliveries said. */
  images: number;
  proofs: ShownProof[];
  /** What mends it, each by its place in this list. */
  mends: { label: string; images: number }[];
  /** What the check goes by; null where it has no threshold. */
  threshold: number | null;
  mark: string;
};

export const asEntry = ({ mends, ...finding }: ShownFinding): CheckEntry => ({
  ...finding,
  ...{
    examples: [],
    deliveries: [],
    mends: mends.map(({ label, only }) => ({ label, images: only?.length ?? finding.images })),
  },
});

/** The code of the check that a key stands for. */
export const codeOf = (key: string) => key.split(" ")[0] ?? key;
