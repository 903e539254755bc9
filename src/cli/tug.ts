import { Command, CommanderError } from 'commander'
import { CommandEnd } from './fault.ts'
import type { MakeOptions } from './vectors/make-command.ts'
import type { RunVectorsOptions } from './vectors/run-command.ts'
import type { RunOptions } from './run-command.ts'
import type { DemoAppOptions } from './demo-app/demo-app-command.ts'
import type { ImportOptions } from './import-command.ts'
import type { HandoffOptions } from './handoff-command.ts'
import type { CheckOptions } from './check-command.ts'
import type { SearchOptions } from './search-command.ts'
import type { SweepOptions } from './sweep-command.ts'

/** An option that may be given several times. */
const collect = (value: string, all: string[]) => [...all, value]

/** Runs first in commands that read one project and exit: start-up is most of their time. */
const checkOnce = () => import('./check-once.ts')

// Each command loads only its own modules: those of the others take as long to load as a small run to simulate.
const program = new Command('tug')
  .description('Tile Tug on the command line. Results go to stdout, progress and errors to stderr.')
  .exitOverride()
  .configureOutput({ outputError: () => undefined })

program
  .command('run <file>')
  .description('simulate a project; a table, or JSON')
  .option('--screen <id>', 'a screen of the project; default: the first')
  .option('--script <name>', 'a script of the project; default: the one it names')
  .option('--variant <name>', 'apply a variant first')
  .option('--seed <n>', "default: the project's")
  .option('--visits <list>', 'first, restarted, again', 'first')
  .option('--json', 'one object for one visit, an array for several')
  .option('--log <file>', 'write the run log as NDJSON')
  .option('--har <file>', 'write the requests of one visit as HAR 1.2')
  .option('--events <file>', 'write one visit as app events, as an app could have sent them')
  .action(async (file: string, options: RunOptions) => {
    await checkOnce()
    return (await import('./run-command.ts')).runCommand(file, options)
  })

program
  .command('check <file>')
  .description("hold the project's budgets; exit 1 when one is broken")
  .option('--junit <file>', 'write a JUnit XML report')
  .option('--seeds <n>', 'simulate with this many seeds and take the median', '1')
  .option('--against <file>', 'the baseline for relative budgets: the JSON of a run')
  .option('--devices <names>', 'hold them on each of these devices, or on all; default: the project’s own')
  .option('--networks <names>', 'on each of these networks, or on all; default: the project’s own')
  .action(async (file: string, options: CheckOptions) => {
    await checkOnce()
    return (await import('./check-command.ts')).checkCommand(file, options)
  })

program
  .command('feed <file>')
  .description('the address check as JSON')
  .action(async (file: string) => {
    await checkOnce()
    return (await import('./feed-command.ts')).feedCommand(file)
  })

program
  .command('handoff <file>')
  .description("the sheet for the app's code: Markdown on stdout, or into files")
  .option('--screen <id>', 'a screen of the project; default: the first')
  .option('--script <name>', 'a script of the project; default: the one it names')
  .option('--seeds <n>', 'simulate each line with this many seeds', '10')
  .option('--md <file>', 'write it as Markdown')
  .option('--html <file>', 'write it as one HTML file')
  .action(async (file: string, options: HandoffOptions) =>
    (await import('./handoff-command.ts')).handoffCommand(file, options),
  )

program
  .command('serve')
  .description('the server')
  .option('--port <n>', 'default: PORT, else 4173')
  .action(async (options: { port?: string }) => (await import('./serve-command.ts')).serveCommand(options))

program
  .command('sweep <files...>')
  .description(
    'every combination of some settings, on all cores; or, with --merge, the parts of a sharded sweep joined',
  )
  .option(
    '--vary <path=values>',
    'a setting and its values, such as /loading/fetchSlots=2,4,6; may be repeated',
    collect,
    [],
  )
  .option('--merge', 'join the parts of a sharded sweep into --csv')
  .option('--screen <id>', 'a screen of the project; default: the first')
  .option('--script <name>', 'a script of the project; default: the one it names')
  .option('--visit <visit>', 'first, restarted or again', 'first')
  .option('--seeds <n>', 'simulate each combination with this many seeds', '10')
  .option('--jobs <n>', 'how many at once; default: all cores')
  .option('--shard <i/n>', 'only this part of the rows')
  .option('--csv <file>', 'write all figures as CSV')
  .option('--json', 'rows with medians and intervals, and the front')
  .action(async (files: string[], options: SweepOptions) =>
    (await import('./sweep-command.ts')).sweepCommand(files, options),
  )

program
  .command('search <file>')
  .description('settings that meet the budgets; exit 1 when none in the range does')
  .option(
    '--vary <path=values>',
    'a setting and its range, such as /loading/fetchSlots=1..8 or =0..1:0.25, or values; may be repeated',
    collect,
    [],
  )
  .option('--least <metric>', 'the metric to keep lowest among settings that meet every budget', 'bytes.received')
  .option('--against <file>', 'the baseline for relative budgets: the JSON of a run')
  .option('--seeds <n>', 'seeds on which the winner is simulated', '10')
  .option('--runs <n>', 'the most simulations', '2000')
  .option('--jobs <n>', 'how many at once; default: all cores')
  .option('--json', 'the settings, as a patch too, with figures and budgets')
  .action(async (file: string, options: SearchOptions) =>
    (await import('./search-command.ts')).searchCommand(file, options),
  )

program
  .command('demo-app <base>')
  .description('a small made-up phone app that scrolls through a recording, with a simple loader of its own')
  .option('--project <file>', 'scroll through the first screen of a project; default: the archive’s wall')
  .option('--seed <n>', 'of its gesture', '1')
  .option('--cancels <when>', 'never, or recycle: when a cell is recycled', 'recycle')
  .action(async (base: string, options: DemoAppOptions) =>
    (await import('./demo-app/demo-app-command.ts')).demoAppCommand(base, options),
  )

program
  .command('import [files...]')
  .description("what a real app's run left behind, as a run with the same figures; files are known by their content")
  .option('--har <file>', 'requests as HAR 1.2', collect, [])
  .option('--frames <file>', 'frame timings as CSV', collect, [])
  .option('--frames-columns <list>', 'its columns by number or title, such as start=2,end=14,unit=ns')
  .option('--frames-between <re>', 'only the rows between lines that match')
  .option('--memory <file>', 'memory readings as CSV: time, value', collect, [])
  .option('--busy <file>', 'busy stretches of threads as CSV: thread, start, end or duration', collect, [])
  .option('--lines <file>', 'log lines, read with --pattern', collect, [])
  .option(
    '--pattern <event=re>',
    'what an event looks like in log lines, with groups t, cell, kind, row, key, address, ms, bytes, tier, text; may be repeated',
    collect,
    [],
  )
  .option('--events <file>', 'app events as NDJSON', collect, [])
  .option('--offset <source=ms>', 'shift a source on the common clock; may be repeated', collect, [])
  .option('--project <file>', 'the project that the app is like: its feed says which addresses are pictures')
  .option('--screen <id>', 'a screen of the project; default: the first')
  .option('--json', 'figures, checks and sources')
  .option('--log <file>', 'write the run log as NDJSON')
  .option('--fit <file>', 'write a project whose network, device and script are fitted to the evidence')
  .action(async (files: string[], options: ImportOptions) =>
    (await import('./import-command.ts')).importCommand(files, options),
  )

const vectors = program
  .command('vectors')
  .description('conformance cases for a loader of your own, and the runner that drives it')
vectors
  .command('make <file>')
  .description('cases from the rules of a project')
  .option('--cases <n>', 'how many; the scripted ones come first', '60')
  .option('--seed <n>', 'of the random ones', '1')
  .option('--out <file>', 'where they are written')
  .action(async (file: string, options: MakeOptions) =>
    (await import('./vectors/make-command.ts')).makeCommand(file, options),
  )
vectors
  .command('run <file> [command...]')
  .description('drives a loader: run V.json -- COMMAND [ARG…]; exit 1 when a case fails')
  .option('--clause <list>', 'only cases of these clauses')
  .option('--junit <file>', 'write a JUnit XML report')
  .option('--json', 'every case with its result')
  .action(async (file: string, command: string[], options: RunVectorsOptions) =>
    (await import('./vectors/run-command.ts')).runVectorsCommand(file, command, options),
  )
vectors
  .command('engine')
  .description('our own loader behind the protocol')
  .action(async () => (await import('./vectors/engine-command.ts')).engineCommand())

async function main(): Promise<void> {
  try {
    await program.parseAsync()
  } catch (error) {
    if (error instanceof CommandEnd) {
      process.stderr.write(`${error.message}\n`)
      process.exitCode = error.code
    } else if (error instanceof CommanderError) {
      if (error.exitCode !== 0)
        process.stderr.write(
          `tug: ${error.message.replace(/^error: /, '').split('\n')[0]}; see "npm run -s tug -- --help"\n`,
        )
      process.exitCode = error.exitCode === 0 ? 0 : 2
    } else {
      process.stderr.write(
        `tug: internal error: ${error instanceof Error ? (error.stack ?? error.message) : String(error)}\n`,
      )
      process.exitCode = 3
    }
  }
}

void main()
