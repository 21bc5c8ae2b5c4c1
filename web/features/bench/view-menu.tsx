"use client";
import { Button } from "@/ui/button";
import { Popover } from "@/ui/popover";

export type Light = { brightness: number; contrast: number; gamma: number; opacity: number; filled: boolean };
export const usualLight: Light = { brightness: 100, contrast: 100, gamma: 100, opacity: 100, filled: false };

const sliders = [
  { name: "brightness", label: "Brightness", least: 20, most: 300 },
  { name: "contrast", label: "Contrast", least: 20, most: 300 },
  { name: "gamma", label: "Gamma", least: 30, most: 300 },
  { name: "opacity", label: "Shapes", least: 0, most: 100 },
] as const;

/** The filter of a picture as it is shown; gamma by a transfer function of its own, since the short words have none. */
export const filterOf = ({ brightness, contrast, gamma }: Light) =>
  [
    brightness === 100 ? "" : `brightness(${brightness}%)`,
    contrast === 100 ? "" : `contrast(${contrast}%)`,
    gamma === 100 ? "" : "url(#bench-gamma)",
  ]
    .filter(Boolean)
    .join(" ") || "none";

/** How the picture is shown while one works on this row; nothing of it changes the picture. */
export function ViewMenu({
  light,
  onLight,
  only,
  onOnly,
  classes,
}: {
  light: Light;
  onLight: (light: Light) => void;
  /** The one class that is shown; null for all. */
  only: number | null;
  onOnly: (only: number | null) => void;
  classes: readonly { id: number; name: string }[];
}) {
  return (
    <Popover
      label="How it is shown"
      className="w-64 space-y-2 p-3 text-[12.5px]"
      trigger={
        <Button look="dim" small>
          View
        </Button>
      }
    >
      {sliders.map(({ name, label, least, most }) => (
        <label key={name} className="grid grid-cols-[72px_1fr_38px] items-center gap-2">
          {label}
          <input
            type="range"
            className="w-full min-w-0"
            min={least}
            max={most}
            value={light[name]}
            onChange={({ target }) => onLight({ ...light, [name]: target.valueAsNumber })}
          />
          <span className="text-right tabular-nums">{light[name]}%</span>
        </label>
      ))}
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          checked={light.filled}
          onChange={({ target }) => onLight({ ...light, filled: target.checked })}
        />
        Areas filled
      </label>
      <label className="block">
        Show only
        <select
          className="ml-2 h-7 rounded-md border border-rule-strong bg-sheet px-1.5"
          value={only ?? ""}
          onChange={({ target }) => onOnly(target.value === "" ? null : Number(target.value))}
        >
          <option value="">all classes</option>
          {classes.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
      </label>
      <Button small onClick={() => onLight(usualLight)}>
        As it is
      </Button>
    </Popover>
  );
}
