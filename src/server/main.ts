import { stat } from 'node:fs/promises'
import { fileURLToPath } from 'node:url'
import { resolveByDns } from './relay/relay-fetch.ts'
import { readRelayHosts } from './relay/relay-rules.ts'
import { relayTimeoutMs } from './relay/relay-routes.ts'
import { startServer } from './server.ts'

/** Starts the server for a person: prints its address, or in one line why it could not start. Never throws. */
export async function serve(portText: string | undefined): Promise<number> {
  const port = portText === undefined || portText === '' ? 4173 : Number(portText)
  if (!Number.isInteger(port) || port < 0 || port > 65_535)
    return reportError(`the port: found "${portText}", allowed: a whole number from 0 to 65535`)
  const pictures = process.env.TUG_PICTURES || null
  if (pictures !== null && !(await isFolder(pictures)))
    return reportError(`TUG_PICTURES: found "${pictures}", allowed: a folder that can be read`)
  let hosts: string[]
  try {
    hosts = readRelayHosts(process.env.TUG_RELAY_HOSTS)
  } catch (error) {
    return reportError((error as Error).message)
  }
  const relay = {
    rules: { hosts, loopback: process.env.TUG_RELAY_LOOPBACK === '1' },
    resolve: resolveByDns,
    timeoutMs: relayTimeoutMs,
  }
  try {
    const server = await startServer({
      port,
      dist: fileURLToPath(new URL('../../dist', import.meta.url)),
      pictures,
      relay,
      recordings: fileURLToPath(new URL('../../.cache/recordings', import.meta.url)),
    })
    const { folder } = server
    if (folder)
      process.stderr.write(
        `${folder.count} pictures in ${pictures}${folder.skipped.length > 0 ? `; cannot be read as pictures: ${folder.skipped.join(', ')}` : ''}\n`,
      )
    if (hosts.length > 0) process.stderr.write(`The relay may ask: ${hosts.join(', ')}\n`)
    process.stdout.write(`Tile Tug is at ${server.address}\n`)
    for (const signal of ['SIGINT', 'SIGTERM'] as const)
      process.once(signal, () => void server.close().then(() => process.exit(0)))
    return 0
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException
    if (code === 'EADDRINUSE')
      return reportError(
        `port ${port} is in use; stop the program that has it, or start with another: PORT=${port + 1} npm start. To a browser that is another address, without the projects made at the first: “Export everything” in the project menu there and “Open a file” here take them over`,
      )
    if (code === 'EACCES') return reportError(`port ${port} may not be used; start with another: PORT=4173 npm start`)
    throw error
  }
}

function reportError(message: string): number {
  process.stderr.write(`${message}\n`)
  return 2
}

async function isFolder(path: string): Promise<boolean> {
  try {
    return (await stat(path)).isDirectory()
  } catch {
    return false
  }
}
