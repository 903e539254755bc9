import { writeFile } from 'node:fs/promises'
import { badInput } from './fault.ts'

/** Writes the file of an option; an error names the option and the file. */
export async function writeText(option: string, file: string, text: string): Promise<void> {
  try {
    await writeFile(file, text)
  } catch (error) {
    throw badInput(`${option} ${file}: cannot be written (${String((error as NodeJS.ErrnoException).code)})`)
  }
}
