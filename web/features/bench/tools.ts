/** The tools of the bench and the keys they are taken up with. Letters are left to the codes of classes. */
import {
  Brush,
  Circle,
  Donut,
  Eraser,
  Hexagon,
  Lasso,
  MousePointer2,
  PaintBucket,
  Route,
  Scissors,
  Slash,
  Sparkle,
  Spline,
  Square,
  type LucideIcon,
} from "lucide-react";

export type Tool =
  | "mend"
  | "box"
  | "rotated-box"
  | "polygon"
  | "trace"
  | "propose"
  | "line"
  | "keypoints"
  | "brush"
  | "rub"
  | "lasso"
  | "fill"
  | "hole"
  | "split";

export const tools: readonly { tool: Tool; key: string; name: string; icon: LucideIcon; help: string }[] = [
  { tool: "mend", key: "1", name: "Mend", icon: MousePointer2, help: "Choose, move, and pull at corners" },
  { tool: "box", key: "2", name: "Box", icon: Square, help: "Drag, or click two corners" },
  { tool: "rotated-box", key: "3", name: "Rotated box", icon: Slash, help: "Drag one edge, then click how wide it is" },
  {
    tool: "polygon",
    key: "4",
    name: "Outline",
    icon: Hexagon,
    help: "Click corners, or hold down and draw; Enter closes",
  },
  {
    tool: "trace",
    key: "5",
    name: "Trace",
    icon: Route,
    help: "Click along an edge, the line follows it; Enter closes",
  },
  { tool: "line", key: "6", name: "Line", icon: Spline, help: "Click points; Enter ends it" },
  {
    tool: "keypoints",
    key: "7",
    name: "Points",
    icon: Circle,
    help: "Click each point; with Shift it is hidden, Space says it is not there",
  },
  {
    tool: "brush",
    key: "8",
    name: "Brush",
    icon: Brush,
    help: "Paint a mask; Shift and wheel, or [ and ], change its size",
  },
  { tool: "rub", key: "9", name: "Rubber", icon: Eraser, help: "Rub out of a mask" },
  {
    tool: "lasso",
    key: "0",
    name: "Lasso",
    icon: Lasso,
    help: "Draw around what belongs to a mask; with Alt what does not",
  },
  { tool: "fill", key: "-", name: "Fill", icon: PaintBucket, help: "Click into what a mask encloses" },
  { tool: "hole", key: "'", name: "Hole", icon: Donut, help: "Draw an outline: it is cut out of the chosen area" },
  {
    tool: "propose",
    key: ";",
    name: "Propose",
    icon: Sparkle,
    help: "Drag a box around a thing: its outline is looked for",
  },
  { tool: "split", key: "=", name: "Split", icon: Scissors, help: "Draw a line through the chosen object" },
];

/** Whether a tool works on a mask, and so has a size or an area. */
export const paintsMasks = (tool: Tool) => tool === "brush" || tool === "rub" || tool === "lasso" || tool === "fill";
