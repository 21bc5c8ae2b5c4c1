"use client";
import { useShow, shows, type Show } from "./use-show";

const names: Record<Show, string> = { grid: "Whole pictures", cutouts: "Cut-outs", ledger: "Ledger" };

/** From one way of looking at the stock to another: words in a line, the present one underlined. */
export function ShowSwitch() {
  const { show, setShow } = useShow();
  return (
    <span className="flex gap-3 whitespace-nowrap" role="group" aria-label="How the stock is looked at">
      {shows.map((one) => (
        <button
          key={one}
          type="button"
          aria-pressed={one === show}
          onClick={() => setShow(one)}
          className={
            one === show
              ? "border-b-2 border-act font-semibold"
              : "border-b-2 border-transparent text-ink-2 hover:text-ink"
          }
        >
          {names[one]}
        </button>
      ))}
    </span>
  );
}
