import { autocompletion, type CompletionContext, type CompletionResult } from '@codemirror/autocomplete';
import { yaml } from '@codemirror/lang-yaml';
import { lintGutter, setDiagnostics, type Diagnostic } from '@codemirror/lint';
import CodeMirror, { EditorView, type ReactCodeMirrorRef } from '@uiw/react-codemirror';
import { useEffect, useMemo, useRef } from 'react';
import type { Fault } from '../../core/documents';
import { useNight } from '../../ui/use-night';

/** The keys that may stand under each key; under the empty one, at the outermost. */
export type YamlKeys = Readonly<Record<string, readonly string[]>>;

/** Completes a key where one may stand: of the part that it is indented under. */
const keysAt =
  (known: YamlKeys) =>
  (context: CompletionContext): CompletionResult | null => {
    const word = context.matchBefore(/^[\s-]*\w*$/) ?? context.matchBefore(/(?<!\w)\w*/);
    const line = context.state.doc.lineAt(context.pos);
    const before = line.text.slice(0, context.pos - line.from);
    if (!word || /:/.test(before)) return null;
    const indent = /^[\s-]*/.exec(before)?.[0].length ?? 0;
    let under = '';
    for (let n = line.number - 1; n >= 1; n--) {
      const { text } = context.state.doc.line(n);
      const own = /^([\s-]*)(\w+):\s*$/.exec(text);
      if (own && (own[1]?.length ?? 0) < indent) {
        under = own[2] ?? '';
        break;
      }
    }
    const keys = known[under] ?? known[''] ?? [];
    const from = context.pos - (/(?<!\w)\w*$/.exec(before)?.[0].length ?? 0);
    return { from, options: keys.map((label) => ({ label, apply: `${label}: `, type: 'property' })) };
  };

/** An editor for YAML, with what is wrong shown at its line. */
export default function YamlEditor({
  text,
  onText,
  faults,
  shown,
  keys,
  label,
  height,
}: {
  readonly text: string;
  readonly onText: (text: string) => void;
  readonly faults: readonly Fault[];
  /** The fault that the cursor is put at. */
  readonly shown?: Fault | undefined;
  /** Known from the first on. */
  readonly keys: YamlKeys;
  readonly label: string;
  readonly height: string;
}) {
  const editor = useRef<ReactCodeMirrorRef>(null);
  const extensions = useMemo(
    () => [
      yaml(),
      lintGutter(),
      autocompletion({ override: [keysAt(keys)] }),
      EditorView.contentAttributes.of({ 'aria-label': label }),
    ],
    [keys, label],
  );
  useEffect(() => {
    const view = editor.current?.view;
    if (!view) return;
    view.dispatch(
      setDiagnostics(
        view.state,
        faults.flatMap((fault) => diagnosticOf(view, fault)),
      ),
    );
  }, [faults, text]);
  useEffect(() => {
    const view = editor.current?.view;
    const [found] = view && shown ? diagnosticOf(view, shown) : [];
    if (!view || !found) return;
    view.dispatch({ selection: { anchor: found.from }, scrollIntoView: true });
    view.focus();
  }, [shown]);
  return (
    <CodeMirror
      ref={editor}
      value={text}
      onChange={onText}
      height={height}
      theme={useNight() ? 'dark' : 'light'}
      extensions={extensions}
      basicSetup={{ foldGutter: false }}
    />
  );
}

function diagnosticOf(view: EditorView, { line, column, says }: Fault): Diagnostic[] {
  const { doc } = view.state;
  if (line > doc.lines) return [];
  const at = doc.line(line);
  const from = Math.min(at.to, at.from + column - 1);
  return [{ from, to: at.to, severity: 'error', message: says }];
}
