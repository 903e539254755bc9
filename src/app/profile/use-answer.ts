import { useEffect, useState } from 'react'

/** What a worker answers to a question that is told apart by its name; undefined while it works. */
export function useAnswer<T>(name: string, ask: () => Promise<T>): { answer: T | undefined; trouble: string | null } {
  const [held, setHeld] = useState<{ name: string; answer?: T; trouble: string | null }>({ name, trouble: null })
  useEffect(() => {
    let stands = true
    ask().then(
      (answer) => stands && setHeld({ name, answer, trouble: null }),
      (error: unknown) => stands && setHeld({ name, trouble: error instanceof Error ? error.message : String(error) }),
    )
    return () => {
      stands = false
    }
    // The name tells questions apart; how it is asked is the same each time.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [name])
  return held.name === name ? { answer: held.answer, trouble: held.trouble } : { answer: undefined, trouble: null }
}
