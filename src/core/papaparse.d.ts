/**
 * What the core uses of papaparse. Its published types bring those of Node with them, and the core must not know of any
 * platform: `process` and `setTimeout` would compile here.
 */
declare module 'papaparse' {
  interface ParseError {
    type: 'Quotes' | 'Delimiter' | 'FieldMismatch'
    message: string
    /** Where in the text, in characters. */
    index?: number
  }

  const Papa: {
    /** Rows of a CSV text (RFC 4180). */
    parse<Row>(
      text: string,
      options: { header?: boolean; skipEmptyLines?: 'greedy' | boolean; delimiter?: string },
    ): { data: Row[]; errors: ParseError[] }
    /** CSV from rows in the order of their fields. */
    unparse(
      table: { fields: string[]; data: unknown[][] },
      options: { newline: string; escapeFormulae: boolean },
    ): string
  }
  export default Papa
}
