import {
  acceptCompletion,
  autocompletion,
  type Completion,
  type CompletionContext,
  completionKeymap,
  completionStatus,
  moveCompletionSelection,
  selectedCompletion,
} from '@codemirror/autocomplete'
import { defaultKeymap } from '@codemirror/commands'
import { type Diagnostic, lintGutter, setDiagnostics } from '@codemirror/lint'
import { Compartment, EditorState, StateEffect, StateField } from '@codemirror/state'
import {
  Decoration,
  type DecorationSet,
  EditorView,
  type KeyBinding,
  keymap,
  placeholder,
} from '@codemirror/view'

import type { LineFault } from '../../api/types'

/** What may be offered: names of rooms, and the words that lines know. */
export interface Words {
  rooms: string[]
  materials: string[]
  places: string[]
  things: string[]
}

/** Offers what may follow: names of rooms after "of", "to", "above"; things after a dash or a semicolon; materials there too. */
function complete(words: () => Words) {
  return (context: CompletionContext) => {
    const line = context.state.doc.lineAt(context.pos)
    const before = line.text.slice(0, context.pos - line.from)
    if (before.includes('#')) return null
    const ofRoom = /(?:\bof|\bto|\babove|\bbelow|\bends)\s+([^;,#]*)$/i.exec(before)
    const options = (labels: string[], type: string): Completion[] => labels.map((label) => ({ label, type }))
    if (ofRoom) {
      return {
        from: context.pos - ofRoom[1]!.length,
        options: options(words().rooms, 'room'),
        validFor: /^[^;,#]*$/,
      }
    }
    const word = /[\p{L}-]+$/u.exec(before)
    if (!word && !context.explicit) return null
    const from = context.pos - (word?.[0].length ?? 0)
    const inThings = /^\s*-\s|;|:\s/.test(before)
    if (inThings) {
      return {
        from,
        options: [...options(words().things, 'thing'), ...options(words().materials, 'material')],
        validFor: /^[\p{L} -]*$/u,
      }
    }
    if (/\d\s*\S*\s*[x×*]\s*\S+\s/i.test(before))
      return { from, options: options(words().places, 'place'), validFor: /^[\p{L} ]*$/u }
    return null
  }
}

/** Enter begins a new line unless an arrow key chose an entry; Tab takes the first while the list is open, and else leaves the field. */
const takeOffered: KeyBinding = {
  key: 'Tab',
  run(view) {
    if (completionStatus(view.state) !== 'active') return false
    if (!selectedCompletion(view.state)) moveCompletionSelection(true)(view)
    return acceptCompletion(view)
  },
}

const chooseLine = StateEffect.define<number>()
const chosen = Decoration.line({ class: 'chosen-line' })
const chosenLine = StateField.define<DecorationSet>({
  create: () => Decoration.none,
  update(marks, transaction) {
    marks = marks.map(transaction.changes)
    for (const effect of transaction.effects) {
      if (!effect.is(chooseLine)) continue
      const { doc } = transaction.state
      const line = effect.value
      marks =
        line >= 0 && line < doc.lines
          ? Decoration.set([chosen.range(doc.line(line + 1).from)])
          : Decoration.none
    }
    return marks
  },
  provide: (field) => EditorView.decorations.from(field),
})

export interface LineEditorOptions {
  parent: HTMLElement
  text: string
  example: string
  words: () => Words
  mend: (fault: LineFault, fix: LineFault['fixes'][number]) => void
  changed: (text: string) => void
  cursorAt: (line: number) => void
}

/** An editor of lines, with faults marked in them, their fixes by one press, and what may follow offered. Undo is not its own. */
export function lineEditor(options: LineEditorOptions) {
  let told = false
  const hint = new Compartment()
  const view = new EditorView({
    parent: options.parent,
    state: EditorState.create({
      doc: options.text,
      extensions: [
        keymap.of([
          takeOffered,
          ...completionKeymap,
          ...defaultKeymap.filter((own) => own.key !== 'Mod-Enter'),
        ]),
        autocompletion({ override: [complete(options.words)], icons: false, selectOnOpen: false }),
        lintGutter(),
        chosenLine,
        hint.of(placeholder(options.example)),
        EditorView.lineWrapping,
        EditorView.contentAttributes.of({
          'aria-label': 'Rooms of this level, one line each',
          'aria-describedby': 'house-faults',
          autocapitalize: 'off',
          spellcheck: 'false',
          id: 'house-lines',
        }),
        EditorView.updateListener.of((update) => {
          if (update.docChanged && !told) options.changed(update.state.doc.toString())
          if (!told && (update.selectionSet || update.docChanged)) {
            options.cursorAt(update.state.doc.lineAt(update.state.selection.main.head).number - 1)
          }
        }),
      ],
    }),
  })

  return {
    view,
    /** Shows text that was written elsewhere, the cursor kept where it is in it. */
    show(text: string) {
      const now = view.state.doc.toString()
      if (now === text) return
      let front = 0
      while (front < now.length && front < text.length && now[front] === text[front]) front += 1
      let back = 0
      const most = Math.min(now.length, text.length) - front
      while (back < most && now[now.length - 1 - back] === text[text.length - 1 - back]) back += 1
      told = true
      view.dispatch({
        changes: { from: front, to: now.length - back, insert: text.slice(front, text.length - back) },
      })
      told = false
    },
    /** Marks faults, and what may be meant otherwise, where they stand. */
    mark(faults: LineFault[], doubts: LineFault[]) {
      const { doc } = view.state
      const diagnostic = (fault: LineFault, severity: 'error' | 'info'): Diagnostic | undefined => {
        if (fault.line >= doc.lines) return undefined
        const line = doc.line(fault.line + 1)
        // Places count characters; the document counts units of UTF-16.
        const chars = [...line.text]
        const at = (count: number) => line.from + chars.slice(0, count).join('').length
        const [from, to] = [at(fault.from), at(fault.to)]
        return {
          from,
          to: Math.max(to, from),
          severity,
          message: fault.message,
          actions: fault.fixes.map((fix) => ({
            name: fixLabel(fix, line.text),
            apply: () => options.mend(fault, fix),
          })),
        }
      }
      const all = [
        ...faults.map((own) => diagnostic(own, 'error')),
        ...doubts.map((own) => diagnostic(own, 'info')),
      ]
      view.dispatch(
        setDiagnostics(
          view.state,
          all.filter((own) => own !== undefined),
        ),
      )
    },
    choose(line: number) {
      view.dispatch({ effects: chooseLine.of(line) })
    },
    hint(example: string) {
      view.dispatch({ effects: hint.reconfigure(placeholder(example)) })
    },
    /** Puts the cursor to the end of a line. */
    goTo(line: number, from?: number, to?: number) {
      const { doc } = view.state
      if (line < 0 || line >= doc.lines) return
      const own = doc.line(line + 1)
      const chars = [...own.text]
      const at = (count: number) => own.from + chars.slice(0, count).join('').length
      const selection =
        from === undefined || to === undefined ? { anchor: own.to } : { anchor: at(from), head: at(to) }
      view.dispatch({ selection, scrollIntoView: true })
      view.focus()
    },
    /** Puts text in a line of its own after the cursor's line, and the cursor behind it. */
    add(text: string) {
      const { doc, selection } = view.state
      const line = doc.lineAt(selection.main.head)
      const insert = line.text.trim() === '' ? text : `\n${text}`
      const at = line.text.trim() === '' ? line.from : line.to
      const until = line.to
      view.dispatch({
        changes: { from: at, to: until, insert },
        selection: { anchor: at + insert.length },
        scrollIntoView: true,
      })
      view.focus()
    },
    destroy: () => view.destroy(),
  }
}

/** What a line becomes by a fix, as much of it as tells. */
export function fixLabel(fix: LineFault['fixes'][number], line: string): string {
  const chars = [...line]
  const becomes = `${chars.slice(0, fix.from).join('')}${fix.with}${chars.slice(fix.to).join('')}`.trim()
  const piece = fix.with.trim()
  return piece.length > 2 ? piece : becomes
}
