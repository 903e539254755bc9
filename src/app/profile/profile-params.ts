import { useMemo } from 'react'
import { useParams } from 'react-router'

/** One part of an address: its text and the number that it names; null: it names none. */
export interface NamedNumber {
  named: string
  id: number | null
}

/** The run and the request that an address of Profile names; null: not named. */
export interface ProfileParams {
  run: NamedNumber | null
  request: NamedNumber | null
}

const read = (named: string | undefined): NamedNumber | null =>
  named === undefined ? null : { named, id: /^\d{1,15}$/.test(named) ? Number(named) : null }

export function useProfileParams(): ProfileParams {
  const { run, request } = useParams<'run' | 'request'>()
  return useMemo(() => ({ run: read(run), request: read(request) }), [run, request])
}
