import { javascript } from "@codemirror/lang-javascript";
import { yaml } from "@codemirror/lang-yaml";
import { HighlightStyle, syntaxHighlighting } from "@codemirror/language";
import { type Diagnostic, lintGutter, setDiagnostics } from "@codemirror/lint";
import { tags } from "@lezer/highlight";
import { basicSetup, EditorView } from "codemirror";
import { useEffect, useRef } from "react";

export type Finding = { line: number; text: string };

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
  ".cm-tooltip": { backgroundColor: "var(--sheet)", color: "var(--ink)", border: "1px solid var(--rule)" },
  ".cm-scroller": { minHeight: "22rem", maxHeight: "32rem" },
});

const colours = HighlightStyle.define([
  { tag: [tags.keyword, tags.definitionKeyword, tags.controlKeyword], color: "var(--accent)" },
  { tag: [tags.string, tags.special(tags.string)], color: "var(--good)" },
  { tag: [tags.number, tags.bool, tags.null], color: "var(--wait)" },
  { tag: tags.comment, color: "var(--ink-faint)", fontStyle: "italic" },
  { tag: [tags.propertyName, tags.definition(tags.propertyName)], color: "var(--ink)", fontWeight: "500" },
]);

/** An editor for scripts and layouts; findings are marked at their lines. */
export function Editor({
  label,
  language,
  value,
  findings,
  onChange,
}: {
  label: string;
  language: "script" | "layout";
  value: string;
  findings: Finding[];
  onChange: (value: string) => void;
}) {
  const place = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(undefined);
  const changed = useRef(onChange);
  changed.current = onChange;
  const first = useRef(value);
  first.current = value;

  useEffect(() => {
    if (!place.current) return;
    const editor = new EditorView({
      parent: place.current,
      doc: first.current,
      extensions: [
        basicSetup,
        language === "script" ? javascript() : yaml(),
        syntaxHighlighting(colours),
        lintGutter(),
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
  }, [language, label]);

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
