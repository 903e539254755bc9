/** How an app sends its events, in plain HTTP: it reads as well in any language. */
export function sendingExample(url: string): string {
  return `// Call note() where a cell is bound, recycled or shows its picture; send() now and then.
const waiting = []
let roundTrip = null

function note(event, fields) {
  waiting.push({ t: clockMs(), event, ...fields })        // clockMs(): the app's monotonic clock
}

async function send() {
  const sentAt = clockMs()
  const head = { format: 'tile-tug/app-events', version: 1, app: 'my app',
    refreshHz: 60, widthDp: 411, heightDp: 823, clockMs: sentAt, rttMs: roundTrip }
  const lines = [head, ...waiting.splice(0)].map((each) => JSON.stringify(each))
  await post('${url}', lines.join('\\n'))
  roundTrip = clockMs() - sentAt                          // the quickest one aligns the clocks
}

note('bind', { cell: 3, row: 40, key: 'T-00040', address: pictureUrl, heightDp: 220 })
note('show', { cell: 3, address: pictureUrl, tier: 'network' })
note('recycle', { cell: 3 })`
}
