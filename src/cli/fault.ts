/** An exit of the command line with an error: 1 a budget is broken, 2 bad usage or input; one line on stderr. */
export class CommandEnd extends Error {
  readonly code: 1 | 2

  constructor(code: 1 | 2, message: string) {
    super(message)
    this.code = code
  }
}

export const badInput = (message: string) => new CommandEnd(2, message)
