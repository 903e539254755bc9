import { spawn, type ChildProcess } from 'node:child_process'
import { once } from 'node:events'
import { createServer } from 'node:net'
import type { AddressInfo } from 'node:net'
import { pino } from 'pino'
import { startServer, type RunningServer } from '../../src/server/server.ts'

/** Ports that nobody has at this moment. */
export async function freePorts(count: number): Promise<number[]> {
  const servers = Array.from({ length: count }, () => createServer())
  for (const server of servers) {
    server.listen(0, '127.0.0.1')
    await once(server, 'listening')
  }
  const ports = servers.map((server) => (server.address() as AddressInfo).port)
  for (const server of servers) await new Promise((resolve) => server.close(resolve))
  return ports
}

/** The server as it ships, in this process; `extraPorts` where the test says. */
export function serverAt(
  port: number,
  extraPorts?: readonly number[],
  recordings: string | null = null,
): Promise<RunningServer> {
  return startServer({
    port,
    dist: 'dist',
    pictures: null,
    recordings,
    log: pino({ level: 'silent' }),
    ...(extraPorts && { extraPorts }),
  })
}

/** The server in a process of its own, which can be frozen and killed as a person's would be. */
export class ServerProcess {
  private child: ChildProcess | null = null
  private readonly port: number

  constructor(port: number) {
    this.port = port
  }

  get address(): string {
    return `http://127.0.0.1:${this.port}/`
  }

  async start(): Promise<void> {
    if (this.child) return
    const child = spawn(process.execPath, ['scripts/serve.mjs'], {
      env: { ...process.env, PORT: String(this.port) },
      stdio: ['ignore', 'pipe', 'inherit'],
    })
    this.child = child
    await new Promise<void>((resolve, reject) => {
      child.stdout.on('data', (said: Buffer) => said.includes('Tile Tug is at') && resolve())
      child.once('exit', (code) => reject(new Error(`the server ended with ${code}`)))
    })
  }

  async stop(): Promise<void> {
    const { child } = this
    this.child = null
    if (!child) return
    child.kill('SIGCONT')
    child.kill('SIGKILL')
    if (child.exitCode === null && child.signalCode === null) await once(child, 'exit')
  }

  freeze(): void {
    this.child?.kill('SIGSTOP')
  }

  thaw(): void {
    this.child?.kill('SIGCONT')
  }
}
