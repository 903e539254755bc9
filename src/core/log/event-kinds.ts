/**
 * The events of a run log, defined once: for writing (event-writer.ts), reading (event-reader.ts), NDJSON, the event
 * list and docs/events.md. Each has up to four 32-bit whole numbers (a, b, c, d) and one double (x). Field forms:
 * int; some (a whole number or null, held as −1); counted (the same, held as one more, null as 0); flag (0 or 1); ms (a
 * span, held in µs); after (an instant, held in µs after the event's own); afterX (an instant, held in µs after the one
 * in x); at (an instant, held in µs); dp (held in 1/1024 dp); text (held as a number of the string table); name (the
 * same, but given and read as that number); kB and bytes. What may be longer than 2,147 s is in x.
 */
export type FieldForm =
  'int' | 'some' | 'counted' | 'flag' | 'ms' | 'after' | 'afterX' | 'at' | 'dp' | 'text' | 'name' | 'kB' | 'bytes'
export type Column = 'a' | 'b' | 'c' | 'd' | 'x'
export interface Field {
  name: string
  column: Column
  form: FieldForm
}

const define = <const T extends Record<string, { fields: string; means: string }>>(kinds: T) => kinds

const definitions = define({
  frame: { fields: 'x:due:after b:presented:after c:begin:afterX d:toldLate:ms', means: 'a frame was presented' },
  work: { fields: 'a:cause:name x:ms:ms', means: 'what the main thread did for the frame before, one line a cause' },
  scroll: {
    fields: 'x:top:dp a:speed:int b:corrected:dp c:atBound:flag d:by:text',
    means: 'the frame before moved the list',
  },
  place: { fields: 'a:row:int x:top:dp b:height:dp', means: 'a row was placed, or its height changed' },
  create: { fields: 'a:cell:int b:kind:int', means: 'a cell was made' },
  bind: {
    fields: 'a:cell:int b:key:name c:index:int d:row:int x:column:counted',
    means: 'a cell was bound to an item',
  },
  recycle: { fields: 'a:cell:int', means: 'a cell went back to its kind’s pool' },
  hold: { fields: 'a:cell:int', means: 'a held cell came back with the item it held' },
  claim: {
    fields: 'a:id:int b:rendition:int c:cell:some d:slot:int x:index:some',
    means: 'a rendition was claimed: by a cell’s slot, or (cell −1) ahead of one',
  },
  release: { fields: 'a:id:int b:why:text', means: 'a claim ended' },
  queue: { fields: 'a:request:int b:asset:int', means: 'a request was made for an asset' },
  join: { fields: 'a:claim:int b:request:int', means: 'a claim joined a request' },
  rank: { fields: 'a:request:int b:class:int', means: 'a request’s class changed' },
  start: { fields: 'a:request:int b:transfer:int c:attempt:int d:conditional:flag', means: 'a transfer began' },
  connected: { fields: 'a:transfer:int', means: 'its connection is there' },
  firstByte: { fields: 'a:transfer:int b:status:int c:total:some', means: 'its reply began; total −1: not known' },
  progress: { fields: 'a:transfer:int b:bytes:int', means: 'bytes received so far (thinned)' },
  received: { fields: 'a:transfer:int b:bytes:int', means: 'a transfer ended complete' },
  cut: {
    fields: 'a:transfer:int b:request:int',
    means: 'a transfer was cut off; its cancel follows when its bytes are known',
  },
  cancel: {
    fields: 'a:transfer:some b:request:int c:bytes:int d:inFlight:int x:why:text',
    means: 'a request was cancelled; transfer −1: it had none',
  },
  fail: {
    fields: 'a:transfer:some b:request:some c:bytes:int d:reason:text x:status:int',
    means: 'a transfer failed (request −1), or a request for good (transfer −1: it had none)',
  },
  retry: { fields: 'a:request:int x:at:at', means: 'a request is tried again at an instant' },
  park: { fields: 'a:request:int', means: 'a request waits for the network to return' },
  decodeStart: { fields: 'a:request:int b:rendition:int', means: 'a decode began' },
  decodeEnd: { fields: 'a:request:int b:rendition:int x:ms:ms d:ok:flag', means: 'a decode ended' },
  ready: { fields: 'a:request:int', means: 'a request has all its renditions' },
  deliver: { fields: 'a:claim:int b:tier:text c:rendition:int', means: 'a claim got its picture' },
  show: {
    fields: 'a:claim:int b:rendition:int c:cell:int d:slot:int x:transition:flag',
    means: 'a slot shows a claim’s picture',
  },
  wrong: { fields: 'a:cell:int b:rendition:int c:slot:int', means: 'a slot shows another item’s picture' },
  clear: { fields: 'a:cell:int b:slot:int', means: 'a slot no longer shows a picture' },
  settle: { fields: 'a:claim:int', means: 'a transition ended' },
  evict: { fields: 'a:rendition:int', means: 'memory let go of a rendition' },
  diskAsk: { fields: 'a:request:int', means: 'a request asked the disk tier' },
  diskMiss: { fields: 'a:request:int', means: 'the disk tier did not have it after all' },
  diskRead: { fields: 'a:asset:int b:bytes:int c:request:int', means: 'the disk tier gave it' },
  diskWrite: { fields: 'a:asset:int b:bytes:int', means: 'the disk tier took an asset' },
  diskEvict: { fields: 'a:asset:int b:bytes:int', means: 'the disk tier let go of an asset' },
  jump: { fields: 'a:row:int x:dp:dp', means: 'a late size moved what is below a row' },
  enter: { fields: 'a:cell:int b:slot:int c:key:name d:geometry:int x:area:int', means: 'a slot came on screen' },
  leave: { fields: 'a:cell:int b:slot:int c:key:name d:geometry:int x:area:int', means: 'a slot left the screen' },
  memory: {
    fields: 'x:tier:bytes a:resident:kB b:bound:kB c:garbage:kB',
    means: 'what memory holds: tier, all, bound, garbage',
  },
  collect: { fields: 'x:ms:ms b:freed:int c:asked:flag', means: 'garbage was collected' },
  relief: { fields: '', means: 'memory pressure' },
  page: { fields: 'a:n:int b:outcome:text c:items:int', means: 'a page of the feed came, or failed' },
  edit: {
    fields: 'a:op:text b:at:int c:count:int d:to:int x:anchor:some',
    means: 'the feed was edited; anchor: the cell that stays where it is, −1: none',
  },
  scope: { fields: 'a:which:text b:state:text', means: 'a screen became active, paused or closed' },
  end: { fields: 'a:why:text', means: 'the visit ended' },
  note: { fields: 'a:text:text', means: 'a note was made' },
  use: { fields: 'a:claim:int b:rendition:int', means: 'a picture was used outside the list' },
  standIn: {
    fields: 'a:cell:int b:rendition:int c:slot:int',
    means: 'a slot shows another size of its picture meanwhile',
  },
  renewal: { fields: 'a:host:text b:outcome:text', means: 'credentials of a host were requested, or issued' },
  refused: { fields: 'a:request:int', means: 'a request was refused for its credentials' },
  away: { fields: 'a:cell:int', means: 'a cell left the list and is held' },
  unpark: { fields: 'a:request:int', means: 'the network is back for a request' },
  slotFrame: { fields: 'a:cell:int b:slot:int c:geometry:int', means: 'a slot on screen has another frame' },
  screen: { fields: 'a:width:dp b:height:dp', means: 'the screen was turned' },
  restrain: { fields: 'a:on:flag', means: 'the list moves too fast for requests to start, or no longer does' },
  busy: { fields: 'a:thread:text x:ms:ms', means: 'a thread of a recorded app was busy until now' },
})

/** What moves the list at a frame: a finger on it, the rest of a flick, the app itself, or nothing. */
export const movers = ['drag', 'flick', 'app', 'rest'] as const
export type Mover = (typeof movers)[number]

type Split<Text extends string> = Text extends `${infer First} ${infer Rest}` ? First | Split<Rest> : Text
type ValueOf<Form> = Form extends keyof Values ? Values[Form] : number
interface Values {
  text: string
  flag: boolean
  some: number | null
  counted: number | null
}
type Named<Part extends string> = { [P in Part as P extends `${string}:${infer Name}:${string}` ? Name : never]: P }

/** The fields of a kind by name: instants and spans in µs, lengths in 1/1024 dp. */
export type EventFields<Kind extends EventKind> = {
  readonly [Name in keyof Named<Split<Definitions[Kind]['fields']>>]: Named<
    Split<Definitions[Kind]['fields']>
  >[Name] extends `${string}:${string}:${infer Form}`
    ? ValueOf<Form>
    : never
}

type Definitions = typeof definitions
export type EventKind = keyof Definitions
export const kindNames = Object.keys(definitions) as EventKind[]

/** The number of each kind in the log. */
export const K = Object.fromEntries(kindNames.map((name, number) => [name, number])) as Record<EventKind, number>

export const kindFields: readonly Field[][] = kindNames.map((name) =>
  definitions[name].fields
    .split(' ')
    .filter((part) => part !== '')
    .map((part) => {
      const [column, field, form] = part.split(':') as [Column, string, FieldForm]
      return { name: field, column, form }
    }),
)

/** A short description of each kind. */
export const kindMeanings = Object.fromEntries(kindNames.map((name) => [name, definitions[name].means])) as Record<
  EventKind,
  string
>
