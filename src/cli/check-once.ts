import { config } from 'zod'

// Must load before any schema is created. Zod compiles schemas so that checking many values is fast; for the one
// project of a short command, compiling takes longer than checking.
config({ jitless: true })
