import { createStore, del, entries, set } from 'idb-keyval'

/** A picture that the bench has not acknowledged, with the token of the round it was taken in. */
export interface UnsentPicture {
  token: string
  id: string
  /** What it shows: one of the two. */
  spot?: string
  device?: string
  at: string
  note: string
  jpeg: ArrayBuffer
}

/** Longer side that is sent, pixels. */
const SIDE = 1280

const shelf = () => createStore('busy-hen pictures', 'pictures')

/** Pictures that wait, oldest first. */
export async function unsentPictures(): Promise<UnsentPicture[]> {
  const all = await entries<string, UnsentPicture>(shelf())
  return all.map(([, own]) => own).sort((a, b) => a.at.localeCompare(b.at))
}

export const savePicture = (own: UnsentPicture) => set(own.id, own, shelf())

export const forgetPicture = (own: UnsentPicture) => del(own.id, shelf())

/** A picture small enough for a weak room; as it came where the browser can't draw it, the bench then makes it smaller. */
export async function small(file: File): Promise<ArrayBuffer> {
  try {
    const picture = await createImageBitmap(file)
    const part = Math.min(1, SIDE / Math.max(picture.width, picture.height))
    const canvas = document.createElement('canvas')
    canvas.width = Math.round(picture.width * part)
    canvas.height = Math.round(picture.height * part)
    canvas.getContext('2d')?.drawImage(picture, 0, 0, canvas.width, canvas.height)
    const jpeg = await new Promise<Blob | null>((done) => canvas.toBlob(done, 'image/jpeg', 0.85))
    if (jpeg) return await jpeg.arrayBuffer()
  } catch {
    // Sent as it is.
  }
  return await file.arrayBuffer()
}
