/** The rules editor: YAML with completion from the schema and mistakes shown where they are. */
import {
  autocompletion,
  type CompletionContext,
  type CompletionResult
} from '@codemirror/autocomplete';
import { defaultKeymap, history, historyKeymap, indentWithTab } from '@codemirror/commands';
import { yaml } from '@codemirror/lang-yaml';
import { HighlightStyle, syntaxHighlighting } from '@codemirror/language';
import { lintGutter, linter, type Diagnostic } from '@codemirror/lint';
import { EditorState } from '@codemirror/state';
import { EditorView, keymap, lineNumbers } from '@codemirror/view';
import { tags } from '@lezer/highlight';
import type { Schemas } from './api';

const colours = HighlightStyle.define([
  {
    tag: tags.definition(tags.propertyName),
    color: 'var(--color-primary-600-400)',
    fontWeight: '600'
  },
  { tag: [tags.string, tags.attributeValue], color: 'var(--color-tertiary-600-400)' },
  { tag: tags.comment, color: 'var(--color-surface-600-400)', fontStyle: 'italic' },
  {
    tag: [tags.punctuation, tags.separator, tags.squareBracket, tags.brace],
    color: 'var(--color-surface-600-400)'
  }
]);

type Check = (text: string) => Promise<Schemas['RuleProblem'][]>;
type Schema = Record<string, unknown>;

/** Every name that may stand in a rules file, from its JSON Schema, with what it is for. */
export function wordsOf(schema: Schema): { label: string; detail: string }[] {
  const found = new Map<string, string>();
  const models = [schema, ...Object.values((schema.$defs ?? {}) as Record<string, Schema>)];
  for (const model of models) {
    const fields = (model.properties ?? {}) as Record<string, Schema>;
    for (const [name, field] of Object.entries(fields)) {
      if (!found.has(name)) found.set(name, String(field.description ?? ''));
      for (const value of (field.enum ?? []) as string[]) found.set(value, name);
    }
  }
  return [...found].map(([label, detail]) => ({ label, detail }));
}

function completing(words: { label: string; detail: string }[], names: string[]) {
  const options = [
    ...words.map((w) => ({ label: w.label, type: 'property', detail: w.detail.slice(0, 60) })),
    ...names.map((label) => ({ label, type: 'constant' }))
  ];
  return (context: CompletionContext): CompletionResult | null => {
    const word = context.matchBefore(/[\w-]+/);
    if (!word && !context.explicit) return null;
    return { from: word?.from ?? context.pos, options, validFor: /^[\w-]*$/ };
  };
}

/** Put an editor into a shadow root: there its styles need no exception from the page's policy. */
export function edit(
  host: HTMLElement,
  text: string,
  schema: Schema,
  names: string[],
  check: Check,
  changed: (text: string) => void,
  dark: boolean
): EditorView {
  const root = host.shadowRoot ?? host.attachShadow({ mode: 'open' });
  const lint = linter(
    async (view): Promise<Diagnostic[]> => {
      const problems = await check(view.state.doc.toString());
      return problems.map((p) => {
        const line = view.state.doc.line(Math.min(p.line, view.state.doc.lines));
        const from = Math.min(line.from + p.column - 1, line.to);
        const message = p.remedy ? `${p.message} ${p.remedy}` : p.message;
        return { from, to: line.to, severity: 'error', message };
      });
    },
    { delay: 400 }
  );
  const theme = EditorView.theme(
    {
      '&': {
        height: '100%',
        backgroundColor: 'var(--color-surface-100-900)',
        color: 'var(--color-surface-contrast-50-950)'
      },
      '.cm-content': {
        fontFamily: 'var(--font-mono)',
        fontSize: '13px',
        caretColor: 'var(--color-surface-contrast-50-950)'
      },
      '.cm-gutters': {
        backgroundColor: 'var(--color-surface-100-900)',
        color: 'var(--color-surface-600-400)',
        border: 'none'
      },
      '.cm-tooltip': {
        backgroundColor: 'var(--color-surface-50-950)',
        color: 'var(--color-surface-contrast-50-950)'
      },
      '&.cm-focused': { outline: '2px solid var(--color-primary-600-400)' }
    },
    { dark }
  );
  const view = new EditorView({
    parent: root,
    root,
    state: EditorState.create({
      doc: text,
      extensions: [
        lineNumbers(),
        history(),
        yaml(),
        syntaxHighlighting(colours),
        autocompletion({ override: [completing(wordsOf(schema), names)] }),
        lint,
        lintGutter(),
        keymap.of([...defaultKeymap, ...historyKeymap, indentWithTab]),
        EditorView.contentAttributes.of({ 'aria-label': 'Rules file' }),
        EditorView.lineWrapping,
        EditorView.updateListener.of((u) => u.docChanged && changed(u.state.doc.toString())),
        theme
      ]
    })
  });
  view.scrollDOM.tabIndex = 0; // so that it can be scrolled without a mouse
  return view;
}
