import type { Drilled, Sight } from '../../api/types'

type Part = Drilled['timed'][number]['part']

export const partWord: Record<Part, string> = {
  noticed: 'noticed',
  first_life: 'first sign of life',
  all_back: 'all back',
  took_over: 'second line carries',
  first_choice: 'first choice again',
}

export const sightWord: Record<Sight['kind'], string> = {
  loss_noticed: 'Loss noticed',
  put_back: 'Put back',
  first_life: 'First sign of life',
  all_back: 'All back',
  took_over: 'Second line carries',
  first_choice: 'First choice again',
  session_broke: 'A call broke',
  rejoined: 'Went another way',
}
