import { Command, CommanderError } from 'commander'
import { CommandEnd } from './fault.ts'
import type { RunOptions } from './run-command.ts'

// Each command loads its own modules alone: what the others need takes as long to load as a small run to simulate.
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
  .action(async (file: string, options: RunOptions) => (await import('./run-command.ts')).runCommand(file, options))

program
  .command('check <file>')
  .description("hold the project's budgets; exit 1 when one is broken")
  .option('--junit <file>', 'write a JUnit XML report')
  .option('--seeds <n>', 'simulate with this many seeds and take the median', '1')
  .option('--against <file>', 'the baseline for relative budgets: the JSON of a run')
  .action(async (file: string, options: { junit?: string; seeds: string; against?: string }) =>
    (await import('./check-command.ts')).checkCommand(file, options),
  )

program
  .command('feed <file>')
  .description('the address check as JSON')
  .action(async (file: string) => (await import('./feed-command.ts')).feedCommand(file))

program
  .command('serve')
  .description('the server')
  .option('--port <n>', 'default: PORT, else 4173')
  .action(async (options: { port?: string }) => (await import('./serve-command.ts')).serveCommand(options))

for (const [name, what] of [
  ['sweep', 'vary settings over all combinations'],
  ['import', 'recorded evidence of a real app'],
] as const)
  program
    .command(name, { hidden: true })
    .allowUnknownOption()
    .allowExcessArguments()
    .description(`${what}; not in this version yet`)
    .action(() => {
      throw new CommandEnd(
        2,
        `${name}: is not in this version yet; it will ${name === 'sweep' ? what : `read ${what}`}`,
      )
    })

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
    process.stderr.write(`tug: our fault: ${error instanceof Error ? (error.stack ?? error.message) : String(error)}\n`)
    process.exitCode = 3
  }
}
