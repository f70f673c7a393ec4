import type { HangsBy } from '../../api/types'

export const wayWord: Record<HangsBy, string> = {
  wire: 'by wire',
  radio: 'by radio',
  line: 'by the line',
}

export const warmthWord = {
  cool: 'cool',
  warm: 'warm to the hand',
  hot: 'too hot to hold',
} as const

/** Milliseconds as one reads them: 0.42, 3.1, 28. */
export function millis(ms: number | undefined | null): string {
  if (ms === undefined || ms === null) return '–'
  return ms < 1 ? ms.toFixed(2) : ms < 10 ? ms.toFixed(1) : ms.toFixed(0)
}

export function day(iso: string): string {
  return new Date(`${iso}T12:00`).toLocaleDateString(undefined, {
    weekday: 'short',
    day: 'numeric',
    month: 'short',
  })
}
