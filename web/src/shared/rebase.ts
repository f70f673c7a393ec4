type Value = unknown
type Fields = Record<string, Value>

const fields = (value: Value): value is Fields =>
  typeof value === 'object' && value !== null && !Array.isArray(value)
const same = (a: Value, b: Value) => JSON.stringify(a) === JSON.stringify(b)

/** Entries of a list by their ids; nothing when they have none. */
function byId(list: Value): Map<string, Value> | undefined {
  if (!Array.isArray(list)) return undefined
  const entries = list.map((entry) => [fields(entry) ? entry.id : undefined, entry] as const)
  return entries.every(([id]) => typeof id === 'string') ? new Map(entries as [string, Value][]) : undefined
}

/**
 * What was typed since a draft was sent, done to what the server made of it. `clash` is called for what was typed at the
 * very place that somebody else changed meanwhile; what was typed stays in the draft then.
 */
export function rebase(sent: Value, typed: Value, answered: Value, clash: () => void): Value {
  if (same(typed, sent)) return answered
  if (same(answered, sent) || same(answered, typed)) return typed
  if (fields(sent) && fields(typed) && fields(answered)) {
    const keys = new Set([...Object.keys(answered), ...Object.keys(typed)])
    const result: Fields = {}
    for (const key of keys) result[key] = rebase(sent[key], typed[key], answered[key], clash)
    return result
  }
  const [was, is, theirs] = [byId(sent), byId(typed), byId(answered)]
  if (was && is && theirs) {
    const ids = [...theirs.keys(), ...[...is.keys()].filter((id) => !theirs.has(id))]
    return ids
      .map((id) => rebase(was.get(id), is.get(id), theirs.get(id), clash))
      .filter((entry) => entry !== undefined)
  }
  clash()
  return typed
}
