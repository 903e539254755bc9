import { useEffect } from 'react'
import { keepFocus } from './keep-focus.ts'

/** The focus of the page is kept while this is there. */
export default function KeptFocus() {
  useEffect(() => keepFocus(document), [])
  return null
}
