import type { Band, FlowStep, PlanStep } from "@larder/core/plans/flow";
import type { Split } from "@larder/core/model/item";
import { number } from "@/ui/words";

/** As much as leaves room for the controls and the evidence beneath on a small screen. */
const height = 176;
const labelRoom = 20;
const columnShare = 0.66;

const fill: Record<Split | "all", string> = {
  all: "var(--color-flow)",
  train: "var(--color-flow-train)",
  val: "var(--color-flow-val)",
  test: "var(--color-flow-test)",
};

type Block = { band: Band; top: number; thick: number };

/** Steps at which whole images leave. */
const explained = new Set<PlanStep>(["select", "relabel", "split"]);
const total = (bands: readonly Band[]) => bands.reduce((sum, { images }) => sum + images, 0);

/** Stacks a step's bands from the top, thickness in proportion to images, each with room for its numbers. */
function stack(bands: readonly Band[], scale: number): Block[] {
  const thicknesses = bands.map((band) => (band.images > 0 ? Math.max(4, band.images * scale) : 1));
  const whole = thicknesses.reduce((a, b) => a + b, 0) + bands.length * labelRoom + (bands.length - 1) * 6;
  let top = Math.max(0, (height - whole) / 2);
  return bands.map((band, index) => {
    top += labelRoom;
    const block = { band, top, thick: thicknesses[index] as number };
    top += block.thick + 6;
    return block;
  });
}

function ribbon(x1: number, top1: number, thick1: number, x2: number, top2: number, thick2: number): string {
  const middle = (x1 + x2) / 2;
  return `M${x1} ${top1}C${middle} ${top1} ${middle} ${top2} ${x2} ${top2}V${top2 + thick2}C${middle} ${top2 + thick2} ${middle} ${top1 + thick1} ${x1} ${top1 + thick1}Z`;
}

/**
 * The flow between the columns: bands whose thickness is the number of images, so that a loss is seen as a thinning.
 */
export function FlowBands({
  steps,
  width,
  onLeaving,
}: {
  steps: readonly FlowStep[];
  width: number;
  /** Asked where a band thins: which images leave there, and why. */
  onLeaving: (step: PlanStep) => void;
}) {
  const column = width / steps.length;
  const inset = (column * (1 - columnShare)) / 2;
  const most = Math.max(1, ...steps.map(({ bands }) => bands.reduce((sum, band) => sum + band.images, 0)));
  const scale = (height - 3 * (labelRoom + 10) - 8) / most;
  const stacks = steps.map(({ bands }) => stack(bands, scale));
  return (
    <div className="relative" style={{ height, width }}>
      <svg width={width} height={height} className="absolute inset-0" aria-hidden="true">
        {stacks.map((blocks, index) => {
          const next = stacks[index + 1];
          if (!next) return null;
          const x1 = index * column + inset + column * columnShare;
          const x2 = (index + 1) * column + inset;
          return blocks.map((from) => {
            const targets =
              blocks.length === next.length ? next.filter(({ band }) => band.split === from.band.split) : next;
            const sum = targets.reduce((total, { band }) => total + band.images, 0);
            let used = 0;
            return targets.map((to) => {
              const thick = targets.length > 1 && sum > 0 ? from.thick * (to.band.images / sum) : from.thick;
              const top = from.top + used;
              used += targets.length > 1 ? thick : 0;
              return (
                <path
                  key={`${index}-${from.band.split ?? ""}-${to.band.split ?? ""}`}
                  d={ribbon(x1, top, thick, x2, to.top, to.thick)}
                  fill={fill[to.band.split ?? from.band.split ?? "all"]}
                  opacity={0.28}
                />
              );
            });
          });
        })}
        {stacks.map((blocks, index) =>
          blocks.map(({ band, top, thick }) => (
            <rect
              key={`${index}-${band.split ?? ""}`}
              x={index * column + inset}
              y={top}
              width={column * columnShare}
              height={thick}
              fill={fill[band.split ?? "all"]}
            />
          )),
        )}
      </svg>
      {steps.map(({ step, bands, estimate }, index) => {
        const before = steps[index - 1];
        const lost = before && explained.has(step) ? total(before.bands) - total(bands) : 0;
        return (
          <span
            key={step}
            className="absolute bottom-0 flex justify-center"
            style={{ left: index * column, width: column }}
          >
            {lost > 0 ? (
              <button
                type="button"
                onClick={() => onLeaving(step)}
                className="rounded-sm px-1.5 text-[12px] text-act underline-offset-2 hover:underline"
              >
                {number(lost)} leave
              </button>
            ) : estimate ? (
              <span className="px-1 text-[12px] text-look" title={estimate}>
                estimate
              </span>
            ) : null}
          </span>
        );
      })}
      {stacks.map((blocks, index) =>
        blocks.map(({ band, top }) => (
          <p
            key={`${index}-${band.split ?? ""}`}
            className="absolute truncate text-center text-[12px] leading-[18px] whitespace-nowrap"
            style={{ left: index * column, top: top - 19, width: column }}
            data-testid={`flow-${steps[index]?.step}-${band.split ?? "all"}`}
          >
            {band.split ? <span className="text-ink-3">{band.split} </span> : null}
            <b className="text-[13px] font-semibold">{number(band.images)}</b>
            <span className="text-ink-2"> · {number(band.objects)}</span>
          </p>
        )),
      )}
    </div>
  );
}
