import { config } from 'zod'

// Loaded before any schema is made: what Zod compiles of a schema, to check many values by it, takes longer than to
// check the one project of a short command.
config({ jitless: true })
