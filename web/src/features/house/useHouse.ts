import { v4 as newId } from 'uuid'
import {
  computed,
  inject,
  type InjectionKey,
  onScopeDispose,
  provide,
  type Ref,
  ref,
  shallowRef,
  watch,
} from 'vue'

import { answer, api } from '../../api/client'
import type {
  Action,
  Drawing,
  HouseChange,
  HouseEdit,
  Level,
  LengthUnit,
  LineFault,
  LineFix,
} from '../../api/types'
import { useLatest } from '../../shared/useLatest'
import { useBench, useHome, useHomeDraft } from '../bench'
import { houseEdit } from './houseEdit'
import { useTextHistory } from './useTextHistory'

const key: InjectionKey<ReturnType<typeof provideHouse>> = Symbol('house')

/** The house that is typed and drawn: two views of the same lines. */
export function provideHouse() {
  const home = useHome()
  const bench = useBench()
  const view = computed(() => home.view.value)
  const units = computed<LengthUnit>(() => view.value?.home.units ?? 'm')
  const drawing = shallowRef<Drawing>()
  /** What is drawn while something is dragged, before it is dropped. */
  const preview = shallowRef<Drawing>()
  /** Why what was wanted on the drawing can't be. */
  const refused = ref('')

  /** What is being drawn of what was typed. */
  let drawn = Promise.resolve()
  /** The sitting that steps of the home are told apart by; there before the draft, which may have something to store at once. */
  const sitting = ref(newId())
  const draft = useHomeDraft<HouseEdit>(home, {
    name: 'house',
    part: houseEdit,
    send: (body, header) =>
      api.PUT('/api/homes/{home}/house', {
        params: { path: { home: home.id }, header: { ...header, 'Busy-Hen-Typing': sitting.value } },
        body,
      }),
    quiet: () => drawn,
  })
  const edit = draft.edit as Ref<HouseEdit | undefined>
  const history = useTextHistory(draft, sitting)

  const linesOf = (levels: Level[] | undefined) => JSON.stringify(levels?.map((own) => own.lines))
  const linesNow = () => linesOf(edit.value?.levels)
  // An answer is drawn when nothing waits, and also when it is of the very lines that stand there: a draft may count as waiting just when
  // its last answer comes, and no other would follow.
  watch(
    view,
    (now) => {
      if (now && (!draft.dirty.value || linesOf(now.home.house.levels) === linesNow()))
        drawing.value = now.drawing
    },
    { immediate: true },
  )

  async function draw(body: HouseEdit) {
    const asked = linesOf(body.levels)
    try {
      const found = await answer(
        api.POST('/api/homes/{home}/drawing', { params: { path: { home: home.id } }, body }),
      )
      if (draft.dirty.value || asked === linesNow()) drawing.value = found
    } catch {
      // The save that follows tells what is wrong.
    }
  }
  /** Draws what is typed before it is stored; an answer that comes late is dropped. */
  const redraw = useLatest((body: HouseEdit) => (drawn = draw(body)))
  watch(
    edit,
    (now) => {
      if (now && draft.dirty.value) redraw(now)
    },
    { deep: true },
  )

  const level = computed<Level | undefined>(
    () => edit.value?.levels.find((own) => own.id === bench.levelId) ?? edit.value?.levels[0],
  )
  const levelIndex = computed(() => edit.value?.levels.findIndex((own) => own.id === level.value?.id) ?? -1)
  const shown = computed(() => preview.value ?? drawing.value)
  const room = computed(() => drawing.value?.rooms.find((own) => own.room_id === bench.roomId))

  async function rewritten(house: HouseEdit, changes: HouseChange[], snap: boolean) {
    const body = { house, changes, snap }
    return await answer(
      api.POST('/api/homes/{home}/house/rewrite', { params: { path: { home: home.id } }, body }),
    )
  }

  async function writeOne(changes: HouseChange[], snap: boolean): Promise<boolean> {
    while (edit.value) {
      const before = linesNow()
      try {
        const { levels, drawing: drawn } = await rewritten(edit.value, changes, snap)
        // What was typed meanwhile is not written over: the change is done to it as well.
        if (linesNow() !== before) continue
        refused.value = ''
        history.write(Object.fromEntries(levels.map((own) => [own.id, own.lines])), true)
        drawing.value = drawn
        return true
      } catch (error) {
        refused.value = (error as Error).message
        return false
      }
    }
    return false
  }

  let writing = Promise.resolve(true)
  /**
   * Writes what is done on the drawing into the lines, one after the other; false, with the reason told, when it can't be.
   */
  function write(changes: HouseChange[], snap = false): Promise<boolean> {
    writing = writing.then(() => writeOne(changes, snap))
    return writing
  }

  /** Puts what is meant in the place of what is wrong in a line. */
  function mend(fault: LineFault, fix: LineFix) {
    const own = edit.value?.levels.find((one) => one.id === fault.level_id)
    if (!own) return
    const lines = own.lines.split('\n')
    const chars = [...(lines[fault.line] ?? '')]
    lines[fault.line] = chars.slice(0, fix.from).join('') + fix.with + chars.slice(fix.to).join('')
    history.write({ [own.id]: lines.join('\n') }, true)
  }

  /** Does what a remedy says. */
  async function act(action: Action) {
    if (action.what === 'write') await write(action.changes)
    else if (action.what === 'choose_look') return
    else if (action.what === 'floor') {
      const own = edit.value?.levels.find((one) => one.id === action.level_id)
      if (own) own.floor = action.material
    } else if (await draft.flush()) {
      const said =
        action.what === 'now_called'
          ? { now_called: [{ room_id: action.room_id, name: action.name }] }
          : { let_go: [action.room_id] }
      await home.change((header) =>
        api.PUT('/api/homes/{home}/house', {
          params: { path: { home: home.id }, header },
          body: { ...houseEdit(home.view.value!), ...said },
        }),
      )
    }
  }

  function turnTo(changed: string | undefined) {
    if (changed === undefined) return false
    // A step that changed no lines stays on the level that is shown.
    if (changed) bench.levelId = changed
    return true
  }
  home.inner = {
    undo: () => turnTo(history.undo()),
    redo: () => turnTo(history.redo()),
  }
  onScopeDispose(() => (home.inner = undefined))

  const house = {
    home,
    draft,
    edit,
    history,
    units,
    level,
    levelIndex,
    drawing,
    preview,
    shown,
    room,
    refused,
    rewritten,
    write,
    mend,
    act,
  }
  provide(key, house)
  return house
}

/** The house that is typed and drawn. */
export function useHouse() {
  const house = inject(key)
  if (!house) throw new Error('useHouse works inside of the house only')
  return house
}
