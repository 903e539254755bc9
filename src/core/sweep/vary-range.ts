import { mostValues, readVary, type Read, type Varied } from './vary.ts'

/** Steps of a range without any: whole numbers by ones if they are few, others in so many parts. */
const fewSteps = 16
const mostWholeSteps = 32

const number = '-?\\d+(?:\\.\\d+)?(?:e[+-]?\\d+)?'
const range = new RegExp(`^(${number})\\.\\.(${number})(?::(${number}))?$`, 'i')

/** Reads `PATH=LOW..HIGH[:STEP]` or `PATH=A,B,C`. */
export function readRange(text: string): Read<Varied> {
  const equals = text.indexOf('=')
  const match = range.exec(text.slice(equals + 1).trim())
  if (equals < 1 || !match) return readVary(text)
  const path = text.slice(0, equals).trim()
  const [low, high] = [Number(match[1]), Number(match[2])]
  if (low > high) return no(`${path}: found ${low}..${high}, allowed: LOW..HIGH with the lower one first`)
  const step = match[3] === undefined ? stepOf(low, high) : Number(match[3])
  if (!(step > 0)) return no(`${path}: found a step of ${match[3]}, allowed: one above 0`)
  const count = Math.floor((high - low) / step + 1e-9) + 1
  if (count > mostValues) return no(`${path}: has ${count} values; at most ${mostValues} are tried`)
  // Sums of decimal steps are rounded to the intended value: 0.1 + 0.2 is 0.3.
  return {
    ok: true,
    value: { path, values: Array.from({ length: count }, (_, i) => Number((low + i * step).toPrecision(12))) },
  }
}

function stepOf(low: number, high: number): number {
  if (low === high) return 1
  if (!Number.isInteger(low) || !Number.isInteger(high)) return (high - low) / fewSteps
  return Math.max(1, Math.ceil((high - low) / mostWholeSteps))
}

const no = (message: string): { ok: false; message: string } => ({ ok: false, message })
