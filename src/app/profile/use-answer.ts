import useSWRImmutable from 'swr/immutable'
import type { Answer, JobName, Order } from '../../workers/jobs/jobs.ts'
import { runWorker } from '../simulate/worker-client.ts'

/** What the worker says of a kept run, which never changes; undefined while it works. `question` tells one from another. */
export function useAnswer<Name extends JobName>(
  name: Name,
  hash: string,
  question: readonly (string | number | null | undefined)[],
  order: () => Order<Name>,
): { answer: Answer<Name> | undefined; trouble: string | null } {
  const { data, error } = useSWRImmutable<Answer<Name>, Error>(
    [name, hash, ...question],
    () => runWorker.ask(name, order()).result,
  )
  return { answer: data, trouble: error ? error.message : null }
}
