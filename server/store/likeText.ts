/** Text with what LIKE takes for a pattern made plain. */
export const plain = (text: string) => text.replace(/[\\%_]/g, (character) => `\\${character}`)

/** A pattern for text that holds this. */
export const containing = (text: string) => `%${plain(text)}%`
