import { createInterface } from 'node:readline'
import type { Policy, Step } from './loader.ts'

/** Speaks the protocol: a line in, the answers out, until the other side closes. */
export async function speak(open: (policy: Policy) => { step(step: Step): object[] }): Promise<void> {
  let loader: { step(step: Step): object[] } | null = null
  const write = (line: object) => process.stdout.write(`${JSON.stringify(line)}\n`)
  for await (const line of createInterface({ input: process.stdin })) {
    const told = JSON.parse(line) as { case?: string; policy?: Policy; settle?: number } & Step
    if (told.policy) loader = open(told.policy)
    else if (told.settle !== undefined) write({ settled: told.settle })
    else for (const output of loader!.step(told)) write(output)
  }
}
