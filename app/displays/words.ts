import type { Shows } from '#core/displays/settings'
import { isGood, qualityText, severityOf } from '#core/tags/quality'
import { valueName } from '#core/tags/valueNames'
import { fixedText, valueText } from '#core/text/number'
import type { ShownTag } from '#shared/displays'
import type { LiveValue } from '#shared/values'

/** How values stand on panes. */

/** So many digits are read from across a room. */
const significant = 6

export const paneText = (value: LiveValue | undefined, tag: ShownTag | undefined, decimals: number | null = null): string => {
  if (!value || !tag) return '—'
  const name = valueName(value.value ?? undefined, tag.names)
  if (name !== null) return name
  if (typeof value.value !== 'number') return valueText(value.value, value.type)
  if (decimals !== null) return fixedText(value.value, decimals)
  return valueText(Number.isInteger(value.value) ? value.value : Number(value.value.toPrecision(significant)), value.type)
}

export interface Doubt {
  text: string
  isBad: boolean
}

/** Why a value is not to be believed; null: it is good. */
export const doubtOf = (tag: ShownTag | undefined, value: LiveValue | undefined, isAway: boolean): Doubt | null => {
  if (tag?.id === null) return { text: 'nothing goes by this name', isBad: true }
  if (isAway) return { text: 'not known now', isBad: true }
  if (!tag || !value || isGood(value.quality)) return null
  return { text: qualityText(value.quality), isBad: severityOf(value.quality) === 'bad' }
}

/** What a pane is called where nobody said so. */
export const titleOf = (shows: Shows, tagOf: (named: string) => ShownTag | undefined): string => {
  switch (shows.kind) {
    case 'value':
    case 'state':
    case 'windows':
      return tagOf(shows.of)?.title ?? shows.of
    case 'trend':
      return shows.of.length === 1 ? (tagOf(shows.of[0]!)?.title ?? shows.of[0]!) : 'The last while'
    case 'table':
      return 'Values'
    case 'troubles':
      return 'What is not well'
    case 'words':
      return ''
  }
}

/** What tags of one pane are called: where names are alike, with as much of their paths as tells them apart. */
export const namesApart = (named: readonly string[], tagOf: (named: string) => ShownTag | undefined): string[] => {
  const titles = named.map((one) => tagOf(one)?.title ?? one)
  return titles.map((title, i) => {
    const alike = named.filter((_, k) => titles[k] === title)
    const path = tagOf(named[i]!)?.path
    if (alike.length < 2 || !path) return title
    const parts = alike.map((one) => (tagOf(one)?.path ?? one).split('/'))
    const shared = parts[0]!.findIndex((part, depth) => parts.some((other) => other[depth] !== part))
    return path.split('/').slice(Math.max(0, shared)).join(' › ')
  })
}
