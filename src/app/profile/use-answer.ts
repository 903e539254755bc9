import { LRUCache } from 'lru-cache'
import { useEffect } from 'react'
import { unstable_serialize, useSWRConfig, type Cache } from 'swr'
import useSWRImmutable from 'swr/immutable'
import type { Answer, JobName, Order } from '../../workers/jobs/jobs.ts'
import { runWorker } from '../simulate/worker-client.ts'

/** The number of answers kept for views that are closed: each selection and each typed letter asks again. */
const mostHeld = 20
const left = new LRUCache<string, Cache>({
  max: mostHeld,
  dispose: (cache, key, why) => {
    if (why === 'evict') cache.delete(key)
  },
})

/** The worker's answer about a kept run, which never changes; undefined while it works. `question` identifies it. */
export function useAnswer<Name extends JobName>(
  name: Name,
  hash: string,
  question: readonly (string | number | null | undefined)[],
  order: () => Order<Name>,
): { answer: Answer<Name> | undefined; trouble: string | null } {
  const asked = [name, hash, ...question]
  const key = unstable_serialize(asked)
  const { cache } = useSWRConfig()
  const { data, error } = useSWRImmutable<Answer<Name>, Error>(asked, () => runWorker.ask(name, order()).result)
  useEffect(() => {
    left.delete(key)
    return () => {
      left.set(key, cache)
    }
  }, [key, cache])
  return { answer: data, trouble: error ? error.message : null }
}
