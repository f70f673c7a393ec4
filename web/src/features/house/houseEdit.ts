import type { HomeView, HouseEdit } from '../../api/types'

/** The part of a home that the house is edited by. */
export function houseEdit({ home: { house } }: HomeView): HouseEdit {
  const { levels, outer_wall, inner_wall, windows, spots, around } = house
  return {
    levels,
    outer_wall,
    inner_wall,
    windows: windows ?? 'dg',
    spots,
    around: around ?? { above: null, below: null, stairs: true },
  }
}
