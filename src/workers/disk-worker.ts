import Dexie from 'dexie'
import { DiskStore } from './disk-store.ts'
import type { FromDisk, ToDisk } from './messages.ts'

declare const self: DedicatedWorkerGlobalScope

const answer = (message: FromDisk) => self.postMessage(message)
/** Of several that failed together, the first one's reason is reported. */
const nameOf = (error: unknown): string => {
  const why = error instanceof Dexie.BulkError ? error.failures[0] : error
  return why instanceof Error ? why.name : 'unknown error'
}

const store = new DiskStore((disk, error) => answer({ type: 'failed', disk, error: nameOf(error) }))

self.onmessage = ({ data }: MessageEvent<ToDisk>) => {
  switch (data.type) {
    case 'read':
      void store.read(data.places).then((bodies) => answer({ type: 'read', id: data.id, bodies }))
      return
    case 'kept':
      // A store that cannot be opened keeps nothing; the runs themselves report that they cannot use it.
      void store
        .kept(data.whose)
        .catch(() => [])
        .then((entries) => answer({ type: 'kept', id: data.id, entries }))
      return
    case 'flush':
      void store.flush()
      return
    case 'changes':
      for (const change of data.changes) store.change(change)
  }
}
