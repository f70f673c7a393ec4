/** Places words on the stage so that none lies over another, over a device, or out of its room. */

export interface Rect {
  x: number
  y: number
  width: number
  height: number
}

export interface Line {
  text: string
  size: number
  strong?: boolean
}

export interface Label extends Rect {
  lines: Line[]
}

const PAD = 4

let context: CanvasRenderingContext2D | null | undefined
const widths = new Map<string, number>()

/** Width of words on the screen, pixels. */
export function textWidth({ text, size, strong }: Line): number {
  const key = `${strong ? 'b' : 'n'}${size}${text}`
  const known = widths.get(key)
  if (known !== undefined) return known
  context ??= document.createElement('canvas').getContext('2d')
  let width = text.length * size * 0.58
  if (context) {
    context.font = `${strong ? 700 : 400} ${size}px ${getComputedStyle(document.body).fontFamily}`
    width = context.measureText(text).width + 1
  }
  if (widths.size > 2000) widths.clear()
  widths.set(key, width)
  return width
}

export function overlaps(a: Rect, b: Rect): boolean {
  return a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height
}

const lineHeight = (line: Line) => Math.round(line.size * 1.22)

/** How large words are, set under one another. */
export function blockSize(lines: Line[]): { width: number; height: number } {
  return {
    width: Math.max(...lines.map(textWidth)),
    height: lines.reduce((sum, line) => sum + lineHeight(line), 0),
  }
}

/**
 * The first of the ways to word a label that finds room in one of the corners, or in the middle, of its box without touching what is
 * taken. What is placed is taken from then on.
 */
export function placeIn(box: Rect, ways: Line[][], taken: Rect[]): Label | undefined {
  for (const lines of ways) {
    const { width, height } = blockSize(lines)
    if (width > box.width - 2 * PAD || height > box.height - 2) continue
    const [left, right] = [box.x + PAD, box.x + box.width - width - PAD]
    const [top, bottom] = [box.y + 2, box.y + box.height - height - 2]
    const [middle, half] = [box.x + (box.width - width) / 2, box.y + (box.height - height) / 2]
    const spots = [
      [left, top],
      [left, bottom],
      [right, top],
      [right, bottom],
      [middle, half],
      [middle, top],
      [middle, bottom],
    ] as const
    for (const [x, y] of spots) {
      const label = { x, y, width, height, lines }
      if (taken.some((other) => overlaps(label, other))) continue
      taken.push(label)
      return label
    }
  }
  return undefined
}

/** The first of some middles at which words touch nothing that is taken. */
export function placeAt(
  spots: { x: number; y: number }[],
  lines: Line[],
  within: Rect,
  taken: Rect[],
): Label | undefined {
  const { width, height } = blockSize(lines)
  for (const { x, y } of spots) {
    const label = { x: x - width / 2, y: y - height / 2, width, height, lines }
    const inside =
      label.x >= within.x &&
      label.y >= within.y &&
      label.x + width <= within.x + within.width &&
      label.y + height <= within.y + within.height
    const room = { x: label.x - 3, y: label.y - 2, width: width + 6, height: height + 4 }
    if (!inside || taken.some((other) => overlaps(room, other))) continue
    taken.push(room)
    return label
  }
  return undefined
}

/** Baselines of a label's lines, from its top. */
export function baselines(lines: Line[]): number[] {
  let y = 0
  return lines.map((line) => {
    y += lineHeight(line)
    return y - Math.round(line.size * 0.28)
  })
}
