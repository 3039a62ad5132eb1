import type { Fault } from '#core/faults/catalogue'
import { visible } from '#core/text/visible'

/** Foreign text may be of any length; this much of it is enough to know it by. */
const longestText = 2000

/** Text of others may hold anything, NUL included; what does not show is written out before it is stored. */
export const shownText = (text: string) => visible(text.length > longestText ? `${text.slice(0, longestText)} …` : text)

export const faultText = (fault: Fault | null) =>
  fault === null ? null : JSON.stringify(fault, (_, part: unknown) => (typeof part === 'string' ? shownText(part) : part))
