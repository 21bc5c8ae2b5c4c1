/** A selection's text, understood: what scripts, pages and plans hand over. */
import { bindSelection, type BoundSelection, type KnownAttributes } from "./bind";
import { parseSelection } from "./parse";

/** Parses and binds. Throws a SelectionError that points at the place. */
export function understandSelection(text: string, attributes?: KnownAttributes): BoundSelection {
  return bindSelection(parseSelection(text), attributes);
}
