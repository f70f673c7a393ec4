import type { Stage, Straggling } from '../../api/types'

export const stageWord: Record<Stage, string> = {
  table: 'On the table',
  wire: 'Wire',
  place: 'Place and power',
  pair: 'Pair',
  settings: 'Settings',
  old: 'The old Wi-Fi',
  look: 'Did it take?',
  roll_call: 'Roll-call',
  leave: 'Leave',
}

export const stragglingWord: Record<Straggling, string> = {
  old_name: 'clings to the old name',
  wrong_band: 'sits on the wrong band',
  too_old: 'too old for the security mode',
  not_here: 'not here today',
  other: 'something else',
}
