/**
 * A cell that a spreadsheet would run as a formula, or that was made harmless before: an apostrophe in front makes a
 * text of it. Numbers are none, whatever their sign.
 */
const runs = /^'*[=+\-@\t\r\n]/
const isNumber = /^[+-]?[\d.,\u202f ]+([eE][+-]?\d+)?$/

/** A cell as a spreadsheet may open it. `meant(harmless(text))` is the text again. */
export const harmless = (text: string): string => (runs.test(text) && !isNumber.test(text) ? `'${text}` : text)

/** The cell as it was meant. */
export const meant = (text: string): string => (text.startsWith("'") && runs.test(text) ? text.slice(1) : text)
