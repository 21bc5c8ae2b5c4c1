/** The selection language in the editor: completion, what is wrong, and what nothing has. */
import { autocompletion, type CompletionContext, type CompletionResult } from "@codemirror/autocomplete";
import { linter, type Diagnostic } from "@codemirror/lint";
import { EditorState, type Extension } from "@codemirror/state";
import { bindSelection } from "@larder/core/selection/bind";
import { completeAt } from "@larder/core/selection/complete";
import { parseSelection } from "@larder/core/selection/parse";
import { SelectionError } from "@larder/core/selection/selection-error";
import { unknownNames } from "@larder/core/selection/unknown";
import { attributesIn, type Vocabulary } from "@larder/core/selection/vocabulary";

export type Problem = { level: "wrong" | "unknown"; message: string; at: number; length: number };

/** What is to be said of a text: what cannot be understood, else the names that nothing in stock has. */
export function problemsOf(text: string, vocabulary: Vocabulary): Problem[] {
  try {
    const tree = parseSelection(text);
    bindSelection(tree, attributesIn(vocabulary));
    return unknownNames(tree, vocabulary).map(({ name, what, at, length }) => ({
      level: "unknown",
      message: what === "class" ? `No class here is called "${name}".` : `Nothing here has the value "${name}".`,
      at,
      length,
    }));
  } catch (error) {
    if (!(error instanceof SelectionError)) throw error;
    return [{ level: "wrong", message: error.message, at: error.at - 1, length: error.length }];
  }
}

const types = { word: "keyword", field: "property", attribute: "property", class: "class", value: "constant" } as const;

/** The language over what a stock has; `vocabulary` is asked anew each time. */
export function selectionLanguage(vocabulary: () => Vocabulary): Extension {
  const complete = ({ state, pos, explicit }: CompletionContext): CompletionResult | null => {
    const text = state.doc.toString();
    const { from, proposals } = completeAt(text, pos, vocabulary());
    // Unasked, only where something is being typed or a value is due.
    if (!explicit && from === pos && !/[=({,]\s?$|\b(?:has|no)\s$/i.test(text.slice(0, pos))) return null;
    const options = proposals.map(({ text: label, kind, detail }) => ({ label, type: types[kind], detail }));
    return options.length > 0 ? { from, options, filter: false } : null;
  };
  const lint = (text: string): Diagnostic[] =>
    problemsOf(text, vocabulary()).map(({ level, message, at, length }) => ({
      from: Math.min(at, text.length),
      to: Math.min(at + length, text.length),
      severity: level === "wrong" ? "error" : "warning",
      message,
    }));
  return [
    // One line: what is pasted with breaks is joined.
    EditorState.transactionFilter.of((transaction) =>
      transaction.newDoc.lines > 1
        ? [
            {
              changes: {
                from: 0,
                to: transaction.startState.doc.length,
                insert: transaction.newDoc.toString().replace(/\s*\n\s*/g, " "),
              },
              selection: { anchor: Math.min(transaction.newSelection.main.head, transaction.newDoc.length) },
            },
          ]
        : transaction,
    ),
    autocompletion({ override: [complete], icons: false, interactionDelay: 0 }),
    linter((view) => lint(view.state.doc.toString()), { delay: 250, tooltipFilter: () => [] }),
  ];
}
