"use client";
import { autocompletion, type CompletionContext, type CompletionResult } from "@codemirror/autocomplete";
import { yaml } from "@codemirror/lang-yaml";
import { HighlightStyle, syntaxHighlighting } from "@codemirror/language";
import { linter, lintGutter, type Diagnostic } from "@codemirror/lint";
import { EditorView } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { completePlan } from "@larder/core/plans/complete-plan";
import { PlanError, planFromYaml, planToYaml, type PlanMistake } from "@larder/core/plans/plan-text";
import type { Plan } from "@larder/core/plans/plan";
import CodeMirror from "@uiw/react-codemirror";
import { useEffect, useMemo, useRef, useState } from "react";

const look = EditorView.theme({
  "&": { backgroundColor: "transparent", fontSize: "12.5px" },
  "&.cm-focused": { outline: "2px solid var(--color-act)" },
  ".cm-content": { fontFamily: "var(--font-mono)", caretColor: "var(--color-ink)" },
  ".cm-gutters": { backgroundColor: "transparent", color: "var(--color-ink-3)", border: "none" },
  ".cm-tooltip": {
    border: "1px solid var(--color-rule-strong)",
    backgroundColor: "var(--color-sheet)",
    color: "var(--color-ink)",
  },
  ".cm-tooltip-autocomplete > ul > li[aria-selected]": {
    backgroundColor: "var(--color-act-wash)",
    color: "var(--color-ink)",
  },
});

/** Colours of the page, which are readable by day and by night. */
const colours = HighlightStyle.define([
  { tag: tags.propertyName, color: "var(--color-ink)", fontWeight: "600" },
  { tag: [tags.string, tags.content], color: "var(--color-act)" },
  { tag: tags.comment, color: "var(--color-ink-3)" },
  { tag: [tags.punctuation, tags.separator, tags.bracket], color: "var(--color-ink-2)" },
]);

function mistakesIn(text: string): readonly PlanMistake[] {
  try {
    planFromYaml(text);
    return [];
  } catch (error) {
    if (error instanceof PlanError) return error.mistakes;
    return [{ key: "", line: 1, column: 1, message: (error as Error).message }];
  }
}

function lint(view: EditorView): Diagnostic[] {
  return mistakesIn(view.state.doc.toString()).map(({ line, column, message }) => {
    const at = view.state.doc.line(Math.min(line, view.state.doc.lines));
    const from = Math.min(at.from + column - 1, at.to);
    return { from, to: at.to, severity: "error", message };
  });
}

function complete({ state, pos, explicit }: CompletionContext): CompletionResult | null {
  const { from, proposals } = completePlan(state.doc.toString(), pos);
  if (proposals.length === 0 || (!explicit && from === pos)) return null;
  return { from, options: proposals.map(({ text: label, detail }) => ({ label, detail })) };
}

const extensions = [
  yaml(),
  lintGutter(),
  linter(lint),
  autocompletion({ override: [complete] }),
  syntaxHighlighting(colours),
  look,
  EditorView.lineWrapping,
];

/**
 * The plan as text: the same thing as the flow sheet. What is typed becomes the plan once it is one; what the sheet
 * changes is written here, unless the text is being written.
 */
export function PlanText({ plan, change }: { plan: Plan; change: (plan: Plan) => void }) {
  const written = useMemo(() => planToYaml(plan), [plan]);
  const [text, setText] = useState(written);
  const [mistakes, setMistakes] = useState<readonly PlanMistake[]>([]);
  const own = useRef(written);
  useEffect(() => {
    if (written === own.current) return;
    own.current = written;
    setText(written);
    setMistakes([]);
  }, [written]);
  const type = (next: string) => {
    setText(next);
    const found = mistakesIn(next);
    setMistakes(found);
    if (found.length > 0) return;
    const parsed = planFromYaml(next);
    own.current = planToYaml(parsed);
    if (own.current !== written) change(parsed);
  };
  const [first, ...more] = mistakes;
  return (
    <section aria-label="The plan as YAML" className="flex flex-col">
      <h2 className="mb-1.5 text-[15px]">The plan as YAML</h2>
      <div className="max-h-[520px] min-h-[200px] overflow-auto rounded-md border border-rule-strong bg-ground">
        <CodeMirror
          value={text}
          onChange={type}
          extensions={extensions}
          theme="none"
          basicSetup={{ foldGutter: false, highlightActiveLine: false, highlightActiveLineGutter: false }}
          aria-label="Plan as YAML"
          onCreateEditor={(view) => view.contentDOM.setAttribute("aria-label", "Plan as YAML")}
        />
      </div>
      {first ? (
        <p role="alert" className="mt-2 text-harm">
          Line {first.line}
          {first.key ? `, ${first.key}` : ""}: {first.message}
          {more.length > 0 ? ` And ${more.length} more.` : ""} The plan stays as it was.
        </p>
      ) : (
        <p className="mt-2 text-small text-ink-3">
          What is as by default is left out. Ctrl space says what may stand here.
        </p>
      )}
    </section>
  );
}
