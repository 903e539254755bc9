import { useLoaderData, type LoaderFunctionArgs } from 'react-router'

/** One part of an address: as it stands there, and the number it names; null: it names none. */
export interface NamedNumber {
  named: string
  id: number | null
}

/** The run and the request that an address of Profile names; null: it leaves that open. */
export interface ProfileParams {
  run: NamedNumber | null
  request: NamedNumber | null
}

/** Reads the address of Profile before the step is shown. */
export function profileParams({ params }: LoaderFunctionArgs): ProfileParams {
  const read = (named: string | undefined): NamedNumber | null =>
    named === undefined ? null : { named, id: /^\d{1,15}$/.test(named) ? Number(named) : null }
  return { run: read(params.run), request: read(params.request) }
}

export const useProfileParams = () => useLoaderData<typeof profileParams>()
