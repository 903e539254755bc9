import { ExampleLoader, type Claim, type Policy, type Request } from '../../examples/loader/loader.ts'
import { speak } from '../../examples/loader/speak.ts'

/** Deliberate mistakes of a loader, each as one would make it. */
export const slips: Record<string, new (policy: Policy) => ExampleLoader> = {
  'no guard': class extends ExampleLoader {
    protected override maySee(): boolean {
      return true
    }
  },
  'no cancel': class extends ExampleLoader {
    protected override mayLetGo(request: Request): boolean {
      return request.state === 'waiting' && super.mayLetGo(request)
    }
  },
  'wrong order': class extends ExampleLoader {
    protected override placeOf(request: Request): number {
      return -super.placeOf(request)
    }
  },
  'double start': class extends ExampleLoader {
    protected override requestFor(address: string): Request {
      const known = super.requestFor(address)
      return known.state === 'decoding' || known.state === 'running' ? this.newRequest(address) : known
    }
  },
  'slot leak after a failure': class extends ExampleLoader {
    private leaked = 0
    protected override afterFailure(): void {
      this.leaked++
    }
    protected override running(): number {
      return super.running() + this.leaked
    }
  },
  'no sharing': class extends ExampleLoader {
    protected override requestFor(address: string): Request {
      return this.newRequest(address)
    }
  },
  'retries that cannot help': class extends ExampleLoader {
    protected override canHelp(reason: string): boolean {
      return reason !== 'not-a-picture'
    }
  },
  'ignores Retry-After': class extends ExampleLoader {
    protected override askedToWait(): number {
      return 0
    }
  },
  'delivers after close': class extends ExampleLoader {
    protected override close(): void {
      this.isLeft = true
    }
  },
  'starts while nothing may start': class extends ExampleLoader {
    protected override mayStart(request: Request): boolean {
      return request.state === 'waiting' && request.notBefore <= this.now
    }
  },
  'forgets aging': class extends ExampleLoader {
    protected override lifted(): number {
      return 0
    }
  },
  'keeps below the threshold': class extends ExampleLoader {
    protected override mayLetGo(request: Request): boolean {
      return super.mayLetGo(request) && request.total === 0
    }
  },
  'forgets what it has decoded': class extends ExampleLoader {
    protected override bind(cell: number, address: string, rank: number, distance: number): void {
      this.decoded.clear()
      super.bind(cell, address, rank, distance)
    }
  },
  crashes: class extends ExampleLoader {
    protected override show(request: Request): void {
      if (request.claims.some((claim: Claim) => claim.cell === 1)) process.exit(3)
      super.show(request)
    }
  },
  babbles: class extends ExampleLoader {
    protected override show(request: Request): void {
      process.stdout.write('debug: here\n')
      super.show(request)
    }
  },
}

const name = process.argv[2]
if (name !== undefined && import.meta.filename === process.argv[1]) await speak((policy) => new slips[name]!(policy))
