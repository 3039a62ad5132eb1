/** Reads a table of numbers and names, as in `62:degrees-celsius 63:kelvin`. */
export const namesOf = (table: string): Map<number, string> =>
  new Map(
    table
      .trim()
      .split(/\s+/)
      .map((one) => {
        const at = one.indexOf(':')
        return [Number(one.slice(0, at)), one.slice(at + 1)]
      }),
  )
