import { readFile } from 'node:fs/promises'
import { badInput } from './fault.ts'

const reasons = new Map([
  ['ENOENT', 'there is no such file'],
  ['EISDIR', 'it is a folder'],
])

/** Reads a file as UTF-8 text; a file that cannot be read ends with a message that says why. */
export async function readText(file: string): Promise<string> {
  let bytes: Buffer
  try {
    bytes = await readFile(file)
  } catch (error) {
    const code = String((error as NodeJS.ErrnoException).code)
    throw badInput(`${file}: cannot be read (${reasons.get(code) ?? code})`)
  }
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    throw badInput(`${file}: is not UTF-8 text; save it as UTF-8`)
  }
}
