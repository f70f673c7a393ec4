/** Rings of polygons as one path; holes come out by the even-odd rule. */
export function ringPath(polygons: number[][][]): string {
  return polygons
    .flat()
    .map((ring) => {
      let d = ''
      for (let i = 0; i + 1 < ring.length; i += 2) d += `${i === 0 ? 'M' : 'L'}${ring[i]} ${ring[i + 1]}`
      return `${d}Z`
    })
    .join('')
}
