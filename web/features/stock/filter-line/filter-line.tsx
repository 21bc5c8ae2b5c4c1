"use client";
import { noVocabulary, type Vocabulary } from "@larder/core/selection/vocabulary";
import { closeCompletion, completionStatus } from "@codemirror/autocomplete";
import { forceLinting } from "@codemirror/lint";
import { Prec } from "@codemirror/state";
import { EditorView, keymap } from "@codemirror/view";
import { useQuery } from "@tanstack/react-query";
import CodeMirror, { type ReactCodeMirrorRef } from "@uiw/react-codemirror";
import { useEffect, useMemo, useRef, useState } from "react";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { Menu, MenuItem, MenuRule } from "@/ui/menu";
import { examples } from "./examples";
import { problemsOf, selectionLanguage } from "./language";
import { recentSelections, rememberSelection } from "./recent";
import { SavedChips, SaveDialog } from "./saved";

const look = EditorView.theme({
  ".cm-placeholder": { color: "var(--color-ink-3)" },
  "&": { backgroundColor: "transparent", fontSize: "13px" },
  "&.cm-focused": { outline: "none" },
  ".cm-content": { fontFamily: "var(--font-mono)", padding: "5px 0", caretColor: "var(--color-ink)" },
  ".cm-line": { padding: "0 8px" },
  ".cm-scroller": { overflowX: "auto", lineHeight: "18px" },
  ".cm-tooltip": {
    border: "1px solid var(--color-rule-strong)",
    backgroundColor: "var(--color-sheet)",
    color: "var(--color-ink)",
  },
  ".cm-tooltip-autocomplete > ul > li": { padding: "2px 8px", display: "flex", gap: "16px" },
  ".cm-tooltip-autocomplete > ul > li[aria-selected]": {
    backgroundColor: "var(--color-act-wash)",
    color: "var(--color-ink)",
  },
  ".cm-completionDetail": {
    marginLeft: "auto",
    fontStyle: "normal",
    color: "var(--color-ink-3)",
    fontFamily: "var(--font-text)",
  },
  ".cm-lintRange-error": { backgroundImage: "none", borderBottom: "2px solid var(--color-harm)" },
  ".cm-lintRange-warning": { backgroundImage: "none", borderBottom: "2px solid var(--color-look-mark)" },
});

/**
 * The line that says which images are shown. What is typed is applied with Enter, or where the line is left, once it
 * can be understood.
 */
export function FilterLine({
  collection,
  where,
  onApply,
}: {
  collection: number;
  where: string;
  onApply: (where: string) => void;
}) {
  const [text, setText] = useState(where);
  const [saving, setSaving] = useState(false);
  const editor = useRef<ReactCodeMirrorRef>(null);
  useEffect(() => setText(where), [where]);
  const { data: vocabulary = noVocabulary } = useQuery({
    queryKey: ["vocabulary", collection],
    queryFn: ({ signal }) => api<Vocabulary>(`/api/collections/${collection}/stock/vocabulary`, { signal }),
  });
  const known = useRef(vocabulary);
  known.current = vocabulary;
  // What nothing has is known only once it is known what there is.
  useEffect(() => {
    const view = editor.current?.view;
    if (view) forceLinting(view);
  }, [vocabulary]);
  const problems = useMemo(() => problemsOf(text, vocabulary), [text, vocabulary]);
  const wrong = problems.find(({ level }) => level === "wrong");
  // A name that is still being typed is not held against anybody.
  const said = wrong || text.trim() === where ? problems : [];
  const apply = (next: string) => {
    const chosen = next.trim();
    setText(chosen);
    if (problemsOf(chosen, known.current).some(({ level }) => level === "wrong")) return;
    rememberSelection(collection, chosen);
    onApply(chosen);
  };
  const applying = useRef(apply);
  applying.current = apply;
  const extensions = useMemo(
    () => [
      selectionLanguage(() => known.current),
      look,
      EditorView.contentAttributes.of({ "aria-label": "Selection", "aria-describedby": "selection-problem" }),
      Prec.high(
        keymap.of([
          {
            key: "Enter",
            run: (view) => {
              if (completionStatus(view.state) === "active") return false;
              applying.current(view.state.doc.toString());
              return true;
            },
          },
          { key: "Escape", run: closeCompletion },
        ]),
      ),
    ],
    [],
  );
  const recent = recentSelections(collection).filter((other) => other !== where);
  return (
    <div className="min-w-0 flex-1">
      <div className="flex items-center gap-1.5">
        <div
          className={`min-w-0 flex-1 rounded-sm border bg-sheet focus-within:border-act ${wrong ? "border-harm" : "border-rule-strong"}`}
        >
          <CodeMirror
            ref={editor}
            value={text}
            onChange={setText}
            onBlur={() => text.trim() !== where && apply(text)}
            extensions={extensions}
            basicSetup={{
              lineNumbers: false,
              foldGutter: false,
              highlightActiveLine: false,
              highlightSelectionMatches: false,
              searchKeymap: false,
              lintKeymap: false,
              autocompletion: false,
            }}
            theme="none"
            indentWithTab={false}
            placeholder="has pretzel (share < 6%) and split = train"
          />
        </div>
        <Menu trigger={<Button small>Examples</Button>}>
          {recent.length > 0 ? (
            <>
              {recent.map((other) => (
                <MenuItem key={other} onSelect={() => apply(other)}>
                  <span className="max-w-[520px] truncate font-mono text-small">{other}</span>
                </MenuItem>
              ))}
              <MenuRule />
            </>
          ) : null}
          {examples.map(({ where: example, says }) => (
            <MenuItem key={example} onSelect={() => apply(example)}>
              <span className="font-mono text-small">{example}</span>
              <span className="ml-auto pl-6 text-small text-ink-3">{says}</span>
            </MenuItem>
          ))}
        </Menu>
        {where !== "" ? (
          <Button small onClick={() => setSaving(true)}>
            Save
          </Button>
        ) : null}
      </div>
      <p
        id="selection-problem"
        role="status"
        className={`min-h-[18px] text-small ${wrong ? "text-harm" : "text-look"}`}
      >
        {said.map(({ message }) => message).join(" ")}
      </p>
      <SavedChips collection={collection} where={where} onChoose={apply} />
      {saving ? <SaveDialog collection={collection} where={where} onClose={() => setSaving(false)} /> : null}
    </div>
  );
}
