type Json = Record<string, unknown>

/**
 * Merges the app-wide slot options and the named set under each slot's own, on the raw file: after parsing a default
 * cannot be told from a choice. Lists are replaced, not merged; an object with another `type` replaces the one below
 * it.
 */
export function resolveSlots(raw: Json): Json {
  const pictures = object(raw.pictures)
  const defaults = object(pictures.defaults)
  const sets = object(pictures.sets)
  if (!Array.isArray(raw.screens)) return raw
  const screens = raw.screens.map((screen, index) => {
    if (!isObject(screen)) return screen as unknown
    const named = screen.id === undefined ? { ...screen, id: `screen-${index + 1}` } : screen
    const cells = named.cells === undefined ? [{}] : named.cells
    return Array.isArray(cells)
      ? { ...named, cells: cells.map((cell: unknown) => withSlots(cell, defaults, sets)) }
      : named
  })
  return { ...raw, screens }
}

function withSlots(cell: unknown, defaults: Json, sets: Json): unknown {
  if (!isObject(cell)) return cell
  const slots = cell.slots === undefined ? [{}] : cell.slots
  if (!Array.isArray(slots)) return cell
  return {
    ...cell,
    slots: slots.map((slot: unknown) => {
      if (!isObject(slot)) return slot
      const set = typeof slot.use === 'string' && Object.hasOwn(sets, slot.use) ? object(sets[slot.use]) : {}
      return arrivingAsWaiting(layer(layer(defaults, set), slot))
    }),
  }
}

/** The visual chosen for waiting holds while the picture arrives too, as far as arriving has none of its own. */
function arrivingAsWaiting(slot: Json): Json {
  const { stages } = slot
  if (!isObject(stages) || !isObject(stages.waiting)) return slot
  return { ...slot, stages: { ...stages, arriving: layer(stages.waiting, object(stages.arriving)) } }
}

/** One object over another, member by member; lists, and objects with another `type`, replace what is below. */
export function layer(under: Json, over: Json): Json {
  const merged: Json = { ...under }
  for (const [key, value] of Object.entries(over)) {
    const below = merged[key]
    const sameShape =
      isObject(value) &&
      isObject(below) &&
      (value.type === undefined || below.type === undefined || value.type === below.type)
    merged[key] = sameShape ? layer(below, value) : value
  }
  return merged
}

const isObject = (value: unknown): value is Json => typeof value === 'object' && value !== null && !Array.isArray(value)

const object = (value: unknown): Json => (isObject(value) ? value : {})
