import { StateEffect, StateField, type Extension } from '@codemirror/state';
import { Decoration, EditorView, ViewPlugin, type DecorationSet, type ViewUpdate } from '@codemirror/view';
import { foundPlaces } from './found-places.ts';

/** Has the editor mark words wherever they stand; nothing for none. */
export const markWords = StateEffect.define<string>();

const words = StateField.define<string>({
  create: () => '',
  update: (value, transaction) => {
    for (const effect of transaction.effects) if (effect.is(markWords)) return effect.value;
    return value;
  },
});
const mark = Decoration.mark({ class: 'cm-found' });

/** Marks are made for what is in view. */
const marks = ViewPlugin.fromClass(
  class {
    decorations: DecorationSet;

    constructor(view: EditorView) {
      this.decorations = marksIn(view);
    }

    update({ view, docChanged, viewportChanged, startState, state }: ViewUpdate): void {
      if (docChanged || viewportChanged || startState.field(words) !== state.field(words))
        this.decorations = marksIn(view);
    }
  },
  { decorations: ({ decorations }) => decorations },
);

function marksIn({ state, visibleRanges }: EditorView): DecorationSet {
  const wanted = state.field(words);
  return Decoration.set(
    visibleRanges.flatMap(({ from, to }) =>
      foundPlaces(state.sliceDoc(from, to), wanted).places.map((place) =>
        mark.range(from + place, from + place + wanted.length),
      ),
    ),
    true,
  );
}

export const markPlaces: Extension = [words, marks];
