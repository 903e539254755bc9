/** The product's own words, each explained in one line. */
export const words: readonly [string, string][] = [
  ['slot', 'A place for one picture in a cell.'],
  ['stage', 'What a slot shows now: absent, waiting, arriving, settled or failed.'],
  ['rendition', 'A picture decoded for one slot: its size, fit and treatments.'],
  ['claim', 'A cell’s interest in a picture, from bind to recycle.'],
  ['request', 'One job of the loader for everybody who wants the same picture.'],
  ['transfer', 'One HTTP exchange of a request; a retry is another.'],
  ['held', 'A cell that has left the screen and keeps its picture.'],
  ['let go', 'A request that nothing needs any more.'],
  ['cut off', 'A transfer that was ended before all its bytes had arrived.'],
  ['ahead', 'Rows that are loaded before they come on screen.'],
  ['hole', 'A slot on screen without its picture.'],
  ['late frame', 'A frame that was presented after its refresh.'],
  ['visit', 'A run from one starting state: first, after a restart, or again.'],
  ['zone', 'Rows at one distance from the screen, treated alike.'],
  ['drip line', 'The line of frames under the map: each late one hangs down.'],
  ['strip', 'The scroll map under a step. It follows what you change.'],
]
