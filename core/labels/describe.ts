/** Steps in words, for histories. */
import type { Step } from "./step";

const plural = (n: number, one: string) => `${n.toLocaleString("en-US")} ${n === 1 ? one : `${one}s`}`;

/** One step in words; `className` names classes by their ids. */
export function stepText(step: Step, className: (id: number) => string): string {
  switch (step.do) {
    case "add-object":
      return `added a ${className(step.object.class)}`;
    case "remove-object":
      return "removed an object";
    case "set-shape":
      return "changed a shape";
    case "set-class":
      return `made an object a ${className(step.class)}`;
    case "set-attribute":
      return step.value === null ? `cleared ${step.name} of an object` : `set ${step.name} of an object`;
    case "set-flag":
      return step.value === null || step.value === false
        ? `cleared ${step.flag} of an object`
        : `set ${step.flag} of an object`;
    case "order-object":
      return "changed the drawing order";
    case "group-objects":
      return `grouped ${plural(Object.keys(step.groups).length, "object")}`;
    case "add-class":
      return `said it is ${className(step.class)}`;
    case "remove-class":
      return `said it is not ${className(step.class)}`;
    case "set-caption":
      return step.captions.length === 0 ? "removed the caption" : "wrote the caption";
    case "set-field":
      return step.value === null ? `cleared the field ${step.name}` : `filled the field ${step.name}`;
    case "set-image-attribute":
      return step.value === null ? `cleared ${step.name}` : `set ${step.name}`;
    case "set-state":
      return `marked as ${step.state}`;
    case "set-split":
      return step.split === null ? "took it out of its split" : `moved to ${step.split}`;
    case "pin":
      return step.pinned ? "pinned it to its split" : "unpinned it";
    case "add-tag":
      return `tagged ${step.tag}`;
    case "remove-tag":
      return `took off the tag ${step.tag}`;
    case "set-presence":
      return step.present ? "put into stock" : "put into the bin";
    case "add-suggestion":
      return `suggested a ${className(step.suggestion.class)}`;
    case "remove-suggestion":
      return "took back a suggestion";
    case "answer-suggestion":
      return step.answer === null
        ? "reopened a suggestion"
        : `${step.answer === "refused" ? "refused" : "accepted"} a suggestion`;
  }
}

/** Several steps in words; what occurs again is counted. */
export function stepsText(steps: readonly Step[], className: (id: number) => string): string {
  const counts = new Map<string, number>();
  for (const step of steps) {
    const text = stepText(step, className);
    counts.set(text, (counts.get(text) ?? 0) + 1);
  }
  return [...counts].map(([text, n]) => (n === 1 ? text : `${text} (${n.toLocaleString("en-US")} times)`)).join(", ");
}
