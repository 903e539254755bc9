import { createInterface } from 'node:readline'
import { VectorEngine } from '../../core/vectors/engine.ts'
import { vectorPolicy, vectorStep } from '../../core/vectors/protocol.ts'

/** `tug vectors engine`: our own loader behind the protocol, for the runner to drive. */
export async function engineCommand(): Promise<void> {
  let engine: VectorEngine | null = null
  const write = (line: object) => process.stdout.write(`${JSON.stringify(line)}\n`)
  for await (const line of createInterface({ input: process.stdin })) {
    const message = JSON.parse(line) as { policy?: unknown; settle?: number }
    if (message.policy !== undefined) engine = new VectorEngine(vectorPolicy.parse(message.policy))
    else if (message.settle !== undefined) write({ settled: message.settle })
    else for (const output of engine!.step(vectorStep.parse(message))) write(output)
  }
}
