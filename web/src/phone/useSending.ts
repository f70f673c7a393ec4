import { type Ref, ref, shallowRef, watchEffect } from 'vue'

import type { PhoneKept } from '../api/types'
import { type Refusal, sayWaiting, send, sendPicture } from './link'
import { forgetPicture, savePicture, type UnsentPicture, unsentPictures } from './pictures'
import { forget, save, unsent, type Unsent } from './unsent'

/** What the bench says of one run or picture itself: it will never be taken. Anything else may be different the next time. */
const RUN_IS_BAD = ['spoiled', 'faults']
/** What is asked before a run is taken. */
const ASKS = ['over_ceiling', 'unclear_number', 'unreadable_number']
const PICTURE_IS_BAD = ['no_picture', 'faults', 'too_large']

/** A figure of a run that waits: it may mean two numbers, or none. */
export interface Doubt {
  /** Where it stands in the run, as a JSON pointer. */
  pointer: string
  message: string
  choices: string[]
}

/** What the bench asks about a typed reading before it keeps it. */
export interface Question {
  own: Unsent
  words: string
  /** The figures that must be put right; none when it is asked whether a reading is right. */
  doubts: Doubt[]
}

/** Sends what was measured, and keeps it on the phone until the bench has acknowledged it. */
export function useSending({
  testing,
  problem,
  taken,
}: {
  testing: Readonly<Ref<unknown>>
  problem: Ref<string>
  /** Told of the newest run that the bench took. */
  taken: (kept: PhoneKept) => Promise<void>
}) {
  const waiting = shallowRef<Unsent[]>([])
  const pictures = shallowRef<UnsentPicture[]>([])
  const question = shallowRef<Question>()
  /** What is kept though something answered: what that said. */
  const stuck = ref('')
  /** Whether the bench answered when it was last asked. */
  const there = ref(true)
  /** What got no answer is tried after the rest: it may be too large for a weak room. */
  const later = new Set<string>()
  let sending = false
  watchEffect(() => sayWaiting(waiting.value.length + pictures.value.length), { flush: 'sync' })

  /** Offers one thing to the bench; what comes back says whether it is worth going on to the next now. */
  async function offer(
    id: string,
    bad: string[],
    send: () => Promise<void>,
    drop: () => Promise<void>,
    asks: (refusal: Refusal) => void = () => {},
  ) {
    try {
      await send()
      await drop()
      later.delete(id)
      there.value = true
      return true
    } catch (error) {
      const { code, own, message } = error as Refusal
      there.value = code !== undefined
      if (code === undefined) {
        later.add(id)
        return false
      }
      if (own && bad.includes(code)) {
        problem.value = message
        await drop()
      } else if (own && ASKS.includes(code)) asks(error as Refusal)
      else stuck.value = message
      return true
    }
  }

  const inTurn = <T>(list: T[], id: (own: T) => string) => [
    ...list.filter((own) => !later.has(id(own))),
    ...list.filter((own) => later.has(id(own))),
  ]

  async function sendAll() {
    if (sending || testing.value) return
    sending = true
    stuck.value = ''
    let newest: PhoneKept | undefined
    try {
      for (const own of inTurn(await unsent(), (one) => one.run.id)) {
        if (testing.value) break
        if (own.run.id === question.value?.own.run.id) continue
        const sendIt = async () => {
          newest = await send(own)
        }
        const asks = ({ message: words, figures }: Refusal) => {
          const doubts = [...figures.asked, ...figures.faults.map((fault) => ({ ...fault, choices: [] }))]
          question.value = { own, words, doubts }
        }
        if (!(await offer(own.run.id, RUN_IS_BAD, sendIt, () => forget(own), asks))) break
      }
      for (const own of inTurn(await unsentPictures(), (one) => one.id)) {
        if (testing.value) break
        const sendIt = async () => void (await sendPicture(own))
        if (!(await offer(own.id, PICTURE_IS_BAD, sendIt, () => forgetPicture(own)))) break
      }
      waiting.value = await unsent()
      pictures.value = await unsentPictures()
      // The run and the spot it belongs to are told together, so that they agree.
      if (newest) await taken(newest)
    } finally {
      sending = false
    }
  }

  /** Answers what the bench asked about a typed reading. */
  async function answer(right: boolean) {
    const asked = question.value?.own
    question.value = undefined
    if (!asked) return
    if (right && asked.run.result.kind === 'shown') {
      const result = { ...asked.run.result, over_ceiling_confirmed: true }
      await save({ ...asked, run: { ...asked.run, result } })
    } else await forget(asked)
    waiting.value = await unsent()
    await sendAll()
  }

  /** Puts other figures into the run that was asked about, by their places, and sends it again. */
  async function mend(figures: Record<string, string>) {
    const asked = question.value?.own
    question.value = undefined
    if (!asked) return
    const mended = JSON.parse(JSON.stringify(asked)) as Unsent
    for (const [pointer, text] of Object.entries(figures)) {
      const path = pointer.split('/').slice(1)
      const last = path.pop()!
      const held = path.reduce<Record<string, unknown>>(
        (at, key) => at[key] as Record<string, unknown>,
        mended.run as unknown as Record<string, unknown>,
      )
      held[last] = text.trim() || null
    }
    await save(mended)
    waiting.value = await unsent()
    await sendAll()
  }

  /** Keeps a run until it is sent; false when this phone can't. */
  async function keep(own: Unsent) {
    try {
      await save(own)
    } catch {
      return false
    } finally {
      waiting.value = await unsent().catch(() => [])
    }
    return true
  }

  async function keepPicture(own: UnsentPicture) {
    await savePicture(own)
    pictures.value = await unsentPictures()
  }

  /** Drops what can't be sent; only a person does. */
  async function drop() {
    for (const own of await unsent()) await forget(own)
    for (const own of await unsentPictures()) await forgetPicture(own)
    waiting.value = []
    pictures.value = []
    stuck.value = ''
    problem.value = ''
  }

  return { waiting, pictures, question, stuck, there, sendAll, answer, mend, keep, keepPicture, drop }
}
