import { serve } from './main.ts'

void serve(process.env.PORT).then((code) => (process.exitCode = code))
