/**
 * Characters that nobody sees, or that turn the text around them: controls (Cc), formats such as
 * zero-width and direction marks (Cf), line and paragraph separators (Zl, Zp), half surrogates (Cs),
 * and the letters that are blank. Names made of them could pass for others.
 */
const unseen = /[\p{Cc}\p{Cf}\p{Zl}\p{Zp}\p{Cs}\u115f\u1160\u2800\u3164\uffa0]/gu

/** Whether a name or a line of text shows all of itself. */
export const isVisible = (text: string): boolean => text.search(unseen) < 0

/** The text without what would not show: a blank stands instead. */
export const seen = (text: string): string => text.replace(unseen, ' ')

/** The text with each character that would not show written out, as in ⟨U+0000⟩; PostgreSQL takes no NUL in text. */
export const visible = (text: string): string =>
  isVisible(text)
    ? text
    : text.replace(unseen, (character) => `⟨U+${character.codePointAt(0)!.toString(16).toUpperCase().padStart(4, '0')}⟩`)
