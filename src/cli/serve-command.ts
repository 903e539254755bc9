import { serve } from '../server/main.ts'

/** `tug serve`: the server, as npm start runs it, without set-up. */
export async function serveCommand(options: { port?: string }): Promise<void> {
  process.exitCode = await serve(options.port ?? process.env.PORT)
}
