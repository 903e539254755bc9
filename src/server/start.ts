import { serve } from './main.ts'

process.exitCode = await serve(process.env.PORT)
