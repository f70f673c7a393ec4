import type { PhoneSpot } from '../api/types'

/** Whether a spot has runs enough, in words. */
export function enoughWord(own: PhoneSpot): string {
  const state = own.enough
  switch (state.kind) {
    case 'too_few':
      return own.runs === 0 ? 'not tested yet' : `${state.more} more to say how much it varies`
    case 'comes_and_goes':
      return 'the connection comes and goes here'
    case 'enough':
      return own.summary?.without_connection === own.runs
        ? 'enough: no connection here'
        : `enough: the median is known to ${Math.max(1, Math.round(state.within * 100))} %`
    case 'more':
      if (state.more == null) return 'it varies so much that runs alone won’t settle it'
      return state.more === 1
        ? 'one more run would settle the median to within 10 %'
        : `${state.more} more runs would settle the median to within 10 %`
  }
}
