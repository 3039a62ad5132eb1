import { reportsText } from '#core/tags/reports'
import type { TagValue } from '#core/tags/types'
import { valueText } from '#core/text/number'
import type { ValueOrigin } from '#shared/values'
import type { RegisteredTag } from '../tags/tagRegister'

/** What the source has by now goes before what is passed on. */
export const withHeld = (stages: ValueOrigin['stages'], held: TagValue | undefined, { passedOn, reports, unit }: RegisteredTag) =>
  held === undefined || stages.length === 0
    ? stages
    : [...stages.slice(0, -1), { title: 'Held back', text: valueText(held, passedOn), detail: reportsText(reports, unit) }, stages.at(-1)!]
