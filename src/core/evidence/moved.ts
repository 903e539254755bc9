const instants = ['t', 'presentedMs', 'dueMs', 'beginMs', 'wantedMs', 'startMs', 'firstByteMs', 'endMs']

/** An event, or an exchange, shifted by so many ms. */
export function moved<E extends object>(one: E, by: number): E {
  if (by === 0) return one
  const there = { ...one } as Record<string, unknown>
  for (const name of instants) if (typeof there[name] === 'number') there[name] += by
  return there as E
}
