/** An event at another instant: by how much, ms. All its instants move with it. */
export function moveEvent<E extends { t: number; event: string }>(event: E, by: number): E {
  if (by === 0) return event
  const moved: Record<string, unknown> = { ...event }
  for (const name of ['t', 'presentedMs', 'dueMs', 'beginMs', 'firstByteMs', 'endMs'])
    if (typeof moved[name] === 'number') moved[name] += by
  return moved as E
}
