import { autocompletion, type CompletionContext } from "@codemirror/autocomplete";
import { javascript } from "@codemirror/lang-javascript";
import { yaml } from "@codemirror/lang-yaml";
import { HighlightStyle, syntaxHighlighting } from "@codemirror/language";
import { type Diagnostic, lintGutter, setDiagnostics } from "@codemirror/lint";
import { tags } from "@lezer/highlight";
import { basicSetup, EditorView, minimalSetup } from "codemirror";
import { useEffect, useRef } from "react";
import type { Suggestion } from "../completion";

export type Finding = { line: number; text: string };

/** What can stand after a text, and from which of its characters on it would be put in. */
export type Completer = (before: string) => { from: number; suggestions: Suggestion[] } | null;

const offered = (completer: { current: Completer | undefined }) => (context: CompletionContext) => {
  const line = context.state.doc.lineAt(context.pos);
  const before = context.state.sliceDoc(line.from, context.pos);
  const found = completer.current?.(before);
  if (!found || (!context.explicit && !/[\w.'"]$/.test(before))) return null;
  return {
    from: line.from + found.from,
    filter: false,
    options: found.suggestions.map((one) => ({
      label: one.text,
      detail: one.detail,
      type: one.type === "field" ? "property" : "function",
    })),
  };
};

const heights = { low: "2.6rem", middle: "16rem", tall: "22rem" };

const look = EditorView.theme({
  "&": { backgroundColor: "var(--sheet)", color: "var(--ink)", fontSize: "12.5px" },
  "&.cm-focused": { outline: "2px solid var(--accent)", outlineOffset: "1px" },
  ".cm-content": { fontFamily: "var(--font-mono)", caretColor: "var(--ink)" },
  ".cm-gutters": { backgroundColor: "var(--inset)", color: "var(--ink-faint)", border: "none" },
  ".cm-activeLine, .cm-activeLineGutter": { backgroundColor: "var(--accent-wash)" },
  ".cm-selectionBackground, &.cm-focused .cm-selectionBackground": {
    backgroundColor: "var(--accent-wash) !important",
  },
  ".cm-cursor": { borderLeftColor: "var(--ink)" },
  ".cm-tooltip.cm-tooltip-autocomplete > ul": { fontFamily: "var(--font-mono)", fontSize: "12px" },
  ".cm-tooltip.cm-tooltip-autocomplete > ul > li": { padding: "2px 8px" },
  ".cm-tooltip.cm-tooltip-autocomplete > ul > li[aria-selected]": {
    backgroundColor: "var(--accent-wash)",
    color: "var(--ink)",
  },
  ".cm-completionDetail": { color: "var(--ink-soft)", fontStyle: "normal", marginLeft: "1.2em" },
  ".cm-tooltip": { backgroundColor: "var(--sheet)", color: "var(--ink)", border: "1px solid var(--rule)" },
});

const colours = HighlightStyle.define([
  { tag: [tags.keyword, tags.definitionKeyword, tags.controlKeyword], color: "var(--accent)" },
  { tag: [tags.string, tags.special(tags.string)], color: "var(--good)" },
  { tag: [tags.number, tags.bool, tags.null], color: "var(--wait)" },
  { tag: tags.comment, color: "var(--ink-faint)", fontStyle: "italic" },
  { tag: [tags.propertyName, tags.definition(tags.propertyName)], color: "var(--ink)", fontWeight: "500" },
]);

/** An editor for scripts, layouts, expressions and shapes; findings are marked at their lines. */
export function Editor({
  label,
  language,
  value,
  findings,
  onChange,
  completer,
  height = "tall",
}: {
  label: string;
  language: "script" | "layout" | "expression" | "shape" | "setup";
  value: string;
  findings: Finding[];
  onChange: (value: string) => void;
  completer?: Completer;
  height?: keyof typeof heights;
}) {
  const place = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(undefined);
  const changed = useRef(onChange);
  changed.current = onChange;
  const completing = useRef(completer);
  completing.current = completer;
  const first = useRef(value);
  first.current = value;

  useEffect(() => {
    if (!place.current) return;
    const editor = new EditorView({
      parent: place.current,
      doc: first.current,
      extensions: [
        height === "low" ? minimalSetup : basicSetup,
        // CEL has no mode of its own; its operators, texts and numbers are coloured well by this one.
        language === "script" || language === "expression" ? javascript() : yaml(),
        autocompletion({ override: completing.current ? [offered(completing)] : [], icons: false }),
        EditorView.theme({ ".cm-scroller": { minHeight: heights[height], maxHeight: "32rem" } }),
        syntaxHighlighting(colours),
        height === "low" ? [] : lintGutter(),
        look,
        EditorView.lineWrapping,
        EditorView.contentAttributes.of({ "aria-label": label }),
        EditorView.updateListener.of((update) => {
          if (update.docChanged) changed.current(update.state.doc.toString());
        }),
      ],
    });
    view.current = editor;
    return () => editor.destroy();
  }, [language, label, height]);

  useEffect(() => {
    const editor = view.current;
    if (editor && editor.state.doc.toString() !== value) {
      editor.dispatch({ changes: { from: 0, to: editor.state.doc.length, insert: value } });
    }
  }, [value]);

  useEffect(() => {
    const editor = view.current;
    if (!editor) return;
    const marks: Diagnostic[] = findings
      .filter((finding) => finding.line >= 1 && finding.line <= editor.state.doc.lines)
      .map((finding) => {
        const line = editor.state.doc.line(finding.line);
        return { from: line.from, to: line.to, severity: "error", message: finding.text };
      });
    editor.dispatch(setDiagnostics(editor.state, marks));
  }, [findings]);

  return <div ref={place} className="overflow-hidden rounded border border-rule" />;
}
