import type { Activity, LengthUnit, Mode, Purpose, StopName, TestKind, Verdict } from '../api/types'

const METRES_PER_FOOT = 0.3048

/** A length with its unit, as the home shows lengths: 4.20 m, or 13'9" to the inch. */
export function length(metres: number, unit: LengthUnit): string {
  if (unit === 'm') return `${metres.toFixed(2)} m`
  const inches = Math.round(Math.abs(metres / METRES_PER_FOOT) * 12)
  const [feet, rest] = [Math.floor(inches / 12), inches % 12]
  const sign = metres < 0 && inches > 0 ? '-' : ''
  if (feet > 0 && rest > 0) return `${sign}${feet}'${rest}"`
  return rest > 0 ? `${sign}${rest}"` : `${sign}${feet}'`
}

/** The sides of a room, as the home shows lengths: 4.20 x 3.60 m, or 13'9" x 11'10". */
export function sides(room: { width_m: number; depth_m: number }, unit: LengthUnit): string {
  const [width, depth] = [length(room.width_m, unit), length(room.depth_m, unit)]
  return unit === 'm' ? `${width.replace(' m', '')} x ${depth}` : `${width} x ${depth}`
}

/** A distance outdoors, which nobody knows to the centimetre. */
export function farAway(metres: number, unit: LengthUnit): string {
  return unit === 'ft' ? `${(metres / METRES_PER_FOOT).toFixed(0)} ft` : `${Math.round(metres * 10) / 10} m`
}

/** An area with its unit, as the home shows lengths. */
export function area(squareMetres: number, unit: LengthUnit): string {
  return unit === 'ft'
    ? `${(squareMetres / METRES_PER_FOOT ** 2).toFixed(0)} ft²`
    : `${squareMetres.toFixed(1)} m²`
}

/** A length as a field in the home's unit shows it. */
export function typedLength(metres: number, unit: LengthUnit): string {
  return unit === 'ft' ? length(metres, unit) : String(Math.round(metres * 100) / 100)
}

/** A speed with as many digits as it deserves, without unit. */
export function speed(mbps: number | null | undefined): string {
  if (mbps === null || mbps === undefined) return '–'
  return mbps > 0 && mbps < 9.95 ? mbps.toFixed(1) : mbps.toFixed(0)
}

/** The same where it stands among other words. */
export const kindWord: Record<TestKind, string> = {
  internet: 'internet',
  second_line: 'second line',
  local: 'local',
}

export const testWord: Record<TestKind, string> = {
  internet: 'Internet test',
  second_line: 'Internet test by the second line',
  local: 'Local test',
}

/** A price in the family's money, whose name nobody need say. */
export function money(price: number | null | undefined): string {
  return price === null || price === undefined ? '–' : price.toFixed(price % 1 ? 2 : 0)
}

/** A change in percent with its sign; what is many times as much is told so. */
export function percent(change: number | null | undefined): string {
  if (change === null || change === undefined) return '–'
  if (change >= 10_000) return 'from nothing'
  if (change >= 900) return `${Math.round(change / 100 + 1)} times`
  const rounded = Math.round(change)
  return `${rounded > 0 ? '+' : rounded < 0 ? '−' : '±'}${Math.abs(rounded)} %`
}

export const verdictWord: Record<Verdict, string> = {
  met: 'met',
  likely: 'likely met',
  just_met: 'just met',
  not_met: 'not met',
}

export const activityWord: Record<Activity, string> = {
  mail: 'mail',
  music: 'music',
  browsing: 'browsing',
  call: 'call',
  hd_film: 'HD film',
  uhd_film: '4K film',
  game: 'game',
  home_office: 'home office',
  camera: 'camera',
  live_broadcast: 'live broadcast',
  local_files: 'files from a machine at home',
  local_game: 'game from a machine at home',
  guest_crowd: 'crowd of guests',
  payment_terminal: 'payment terminal',
}

export const modeWord: Record<Mode, string> = {
  router: 'router',
  access_point: 'access point',
  mesh_node: 'mesh node',
  repeater: 'repeater',
  switch: 'switch',
}

export const stopWord: Record<StopName, string> = {
  brief: 'Brief',
  house: 'House',
  setups: 'Setups',
  rounds: 'Rounds',
  compare: 'Compare',
  fit: 'Fit',
  drills: 'Drills',
  watch: 'Watch',
}

export const purposeWord: Record<Purpose, string> = {
  rooms: 'room by room',
  baseline: 'as found',
  after: 'after a change',
  wired_ceiling: 'wired ceiling',
  range_walk: 'range walk',
  outlet_trial: 'outlet trial',
  placement_trial: 'placement trial',
  family_rush: 'family rush',
  application_check: 'film and call',
  hand_over_walk: 'hand-over walk',
  route_walk: 'route walk',
}

/** Words as a sentence of their own: a capital at the front, a full stop at the end. */
export const sentence = (words: string) => `${words.charAt(0).toUpperCase()}${words.slice(1)}.`

/** Seconds as one reads them: 4.2 s, 38 s, 3 min 20 s, 3 h 5 min. */
export function seconds(s: number): string {
  if (s < 10) return `${Math.round(s * 10) / 10} s`
  const whole = Math.round(s)
  if (whole < 100) return `${whole} s`
  const [count, large, small] = whole < 7200 ? [whole, 'min', 's'] : [Math.round(whole / 60), 'h', 'min']
  return `${Math.floor(count / 60)} ${large}${count % 60 ? ` ${count % 60} ${small}` : ''}`
}

/** A moment, by day and minute. */
export function when(iso: string): string {
  return new Date(iso).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' })
}
