"use client";
import { tools, type Tool } from "./tools";

/** The tools, each with the key it is taken up with. */
export function ToolBar({ tool, onTool }: { tool: Tool; onTool: (tool: Tool) => void }) {
  return (
    <div role="toolbar" aria-label="Tools" className="flex gap-1">
      {tools.map(({ tool: one, key, name, icon: Icon, help }) => (
        <button
          key={one}
          type="button"
          aria-pressed={tool === one}
          title={`${help} (${key})`}
          onClick={() => onTool(one)}
          className="relative flex h-12 min-w-[56px] px-1 flex-col items-center justify-center gap-0.5 rounded-md text-[11px] text-dim-ink-2 hover:bg-dim-2 hover:text-dim-ink aria-pressed:bg-dim-ink aria-pressed:text-dim"
        >
          <Icon size={16} aria-hidden="true" />
          <span className="whitespace-nowrap">{name}</span>
          <span className="absolute top-0.5 right-1 text-[9.5px] opacity-70" aria-hidden="true">
            {key}
          </span>
        </button>
      ))}
    </div>
  );
}
