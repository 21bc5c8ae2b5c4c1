import { Presets, SingleBar } from "cli-progress";

export type Progress = { total: (count: number) => void; step: () => void; end: () => void };

/** A bar on standard error while it is a terminal; nothing at all otherwise. */
export function progressBar(title: string): Progress {
  if (!process.stderr.isTTY) return { total: () => undefined, step: () => undefined, end: () => undefined };
  const bar = new SingleBar(
    {
      format: `${title} {bar} {value} of {total} files, {eta_formatted} left`,
      hideCursor: true,
      clearOnComplete: true,
      stream: process.stderr,
      fps: 8,
    },
    Presets.shades_grey,
  );
  let [done, total] = [0, 0];
  return {
    total(count) {
      total = count;
      bar.start(total, 0);
    },
    step() {
      // A container file holds many pictures, so the end may move.
      if (++done > total) bar.setTotal((total = done));
      bar.update(done);
    },
    end: () => bar.stop(),
  };
}
