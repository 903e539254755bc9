import { expect, it } from 'vitest'
import { messageTurns } from '../../src/workers/message-turns.ts'

it('gives each of several jobs of one worker its turn, in the order in which they asked', async () => {
  const rest = messageTurns()
  const ran: string[] = []
  const job = async (name: string) => {
    for (let turn = 0; turn < 3; turn++) {
      await rest()
      ran.push(`${name}${turn}`)
    }
  }
  // The second begins while the first rests: neither takes the other’s turn.
  await Promise.all([job('a'), job('b')])
  expect(ran).toEqual(['a0', 'b0', 'a1', 'b1', 'a2', 'b2'])
})
