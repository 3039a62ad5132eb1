import type { JournalKeeping } from '#core/journal/settings'
import { counted } from '#core/text/counted'
import { momentText } from '#core/text/moment'
import type { ForwardingStatus, JournalUse } from '#shared/journal'

const grouped = (n: number) => n.toLocaleString('en-GB')
const size = (mb: number) => (mb < 10 ? mb.toFixed(1) : grouped(Math.round(mb)))

/** What is kept and how much may be, as a sentence. */
export const keptText = ({ keeping, use }: { keeping: JournalKeeping; use: JournalUse }): string => {
  const { where, most, days, mostMb } = keeping
  const limits = [
    `${grouped(most)} entries`,
    days !== null && `${grouped(days)} days`,
    where === 'database' && mostMb !== null && `${grouped(mostMb)} MB`,
  ]
  const taken = use.mb === null ? 'in memory only' : `${size(use.mb)} MB in the database`
  const since = use.since === null ? '' : ` since ${momentText(use.since)}`
  return `${counted(use.entries, 'entry', 'entries')}${since}, ${taken}; at most ${limits.filter(Boolean).join(', ')}.`
}

/** How handing them on goes, as a sentence. */
export const forwardedText = ({ sent, waiting, dropped, fault }: ForwardingStatus): string => {
  const lost = dropped > 0 ? `, ${grouped(dropped)} could not wait` : ''
  return fault ? `Not handed on: ${grouped(waiting)} wait${lost}.` : `${grouped(sent)} handed on${lost}.`
}
