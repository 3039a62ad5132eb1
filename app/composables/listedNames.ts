/** Names as a person lists them: by commas, semicolons or lines. */
export const listedNames = (text: string): string[] =>
  text
    .split(/[\n,;]/)
    .map((one) => one.trim())
    .filter(Boolean)
