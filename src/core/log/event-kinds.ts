/**
 * The events of a run log. Each has up to four 32-bit whole numbers (a, b, c, d) and one double (x); what they
 * mean is said here once, for writing, for NDJSON and for the event list. Field forms:
 * int, ms (held in µs), after (µs after the event's own instant, told as an instant in ms), afterX (µs after the
 * instant that x tells), at (an instant held in µs, told in ms), dp (held in 1/1024 dp), text (a number of the
 * string table), kB and bytes. What may be longer than 2,147 s stands in x.
 */
export type FieldForm = 'int' | 'ms' | 'after' | 'afterX' | 'at' | 'dp' | 'text' | 'kB' | 'bytes'
export type Column = 'a' | 'b' | 'c' | 'd' | 'x'
export interface Field {
  name: string
  column: Column
  form: FieldForm
}

const define = <const T extends Record<string, string>>(kinds: T) => kinds

const definitions = define({
  frame: 'x:due:after b:presented:after c:begin:afterX d:toldLate:ms',
  work: 'a:cause:text x:ms:ms',
  scroll: 'x:top:dp a:speed:int b:corrected:dp c:atBound:int d:by:text',
  place: 'a:row:int x:top:dp b:height:dp',
  create: 'a:cell:int b:kind:int',
  // The column counts from 1; 0: the log is from before it was told.
  bind: 'a:cell:int b:key:text c:index:int d:row:int x:column:int',
  recycle: 'a:cell:int',
  hold: 'a:cell:int',
  claim: 'a:id:int b:rendition:int c:cell:int d:slot:int x:index:int',
  release: 'a:id:int b:why:text',
  queue: 'a:request:int b:asset:int',
  join: 'a:claim:int b:request:int',
  rank: 'a:request:int b:class:int',
  start: 'a:request:int b:transfer:int c:attempt:int d:conditional:int',
  connected: 'a:transfer:int',
  firstByte: 'a:transfer:int b:status:int c:total:int',
  progress: 'a:transfer:int b:bytes:int',
  received: 'a:transfer:int b:bytes:int',
  cut: 'a:transfer:int b:request:int',
  cancel: 'a:transfer:int b:request:int c:bytes:int d:inFlight:int x:why:text',
  fail: 'a:transfer:int b:request:int c:bytes:int d:reason:text x:status:int',
  retry: 'a:request:int x:at:at',
  park: 'a:request:int',
  decodeStart: 'a:request:int b:rendition:int',
  decodeEnd: 'a:request:int b:rendition:int x:ms:ms d:ok:int',
  ready: 'a:request:int',
  deliver: 'a:claim:int b:tier:text c:rendition:int',
  show: 'a:claim:int b:rendition:int c:cell:int d:slot:int x:transition:int',
  wrong: 'a:cell:int b:rendition:int c:slot:int',
  clear: 'a:cell:int b:slot:int',
  settle: 'a:claim:int',
  evict: 'a:rendition:int',
  diskAsk: 'a:request:int',
  diskMiss: 'a:request:int',
  diskRead: 'a:asset:int b:bytes:int c:request:int',
  diskWrite: 'a:asset:int b:bytes:int',
  diskEvict: 'a:asset:int b:bytes:int',
  jump: 'a:row:int x:dp:dp',
  enter: 'a:cell:int b:slot:int c:key:text d:geometry:int x:area:int',
  leave: 'a:cell:int b:slot:int c:key:text d:geometry:int x:area:int',
  memory: 'x:tier:bytes a:resident:kB b:bound:kB c:garbage:kB',
  collect: 'x:ms:ms b:freed:int c:asked:int',
  relief: '',
  page: 'a:n:int b:outcome:text c:items:int',
  edit: 'a:op:text b:at:int c:count:int d:to:int x:anchor:int',
  scope: 'a:which:text b:state:text',
  end: 'a:why:text',
  note: 'a:text:text',
  use: 'a:claim:int b:rendition:int',
  standIn: 'a:cell:int b:rendition:int c:slot:int',
  renewal: 'a:host:text b:outcome:text',
  refused: 'a:request:int',
  away: 'a:cell:int',
  unpark: 'a:request:int',
  // The frame of a slot on screen has changed: its place and size from this instant on.
  slotFrame: 'a:cell:int b:slot:int c:geometry:int',
  screen: 'a:width:dp b:height:dp',
  // The list moves too fast for requests to start, or no longer.
  restrain: 'a:on:int',
})

/** Who moves the list at a frame: a finger on it, the way that is left of a flick, the app itself, or nobody. */
export const movers = ['drag', 'flick', 'app', 'rest'] as const
export type Mover = (typeof movers)[number]

export type EventKind = keyof typeof definitions
export const kindNames = Object.keys(definitions) as EventKind[]

/** The number of each kind, as it stands in the log. */
export const K = Object.fromEntries(kindNames.map((name, number) => [name, number])) as Record<EventKind, number>

export const kindFields: readonly Field[][] = kindNames.map((name) =>
  definitions[name]
    .split(' ')
    .filter((part) => part !== '')
    .map((part) => {
      const [column, field, form] = part.split(':') as [Column, string, FieldForm]
      return { name: field, column, form }
    }),
)
