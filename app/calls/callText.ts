import type { ClientCall, CallTotals } from '#shared/calls'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import { momentText } from '#core/text/moment'

const shown = 3

/** What a call was about, on one line. */
export const aboutText = ({ items, more }: Pick<ClientCall, 'items' | 'more'>): string => {
  const [first, ...rest] = items.map(({ what, value }) => (value === null ? what : `${what} = ${value}`))
  if (first === undefined) return ''
  const parts = [first, ...rest.slice(0, shown - 1)]
  const left = items.length + more - parts.length
  return left > 0 ? `${parts.join(', ')} and ${counted(left, 'more', 'more')}` : parts.join(', ')
}

/** How many of its items were refused, where it is not all of them. */
export const refusedText = ({ outcome, items }: Pick<ClientCall, 'outcome' | 'items'>): string => {
  const refused = items.filter(({ refused: isRefused }) => isRefused).length
  return outcome === 'partly' && refused > 0 ? `${refused} of ${items.length} refused` : ''
}

type Total = CallTotals['clients'][number]

export const totalText = ({ calls, told, measured }: Total): string =>
  [
    counted(calls, 'call'),
    ...(told > 0 ? [`told ${told.toLocaleString('en-GB')} times`] : []),
    ...(measured.p95 === null ? [] : [`95 % within ${duration(measured.p95)}`]),
  ].join(', ')

/** Since when it is counted, who waited longest, and who was refused most often. */
export const totalsText = ({ since, clients }: Pick<CallTotals, 'since' | 'clients'>): string => {
  const slowest = mostBy(clients, (total) => total.slowest?.ms ?? 0)
  const refused = mostBy(clients, ({ measured }) => measured.failures)
  return [
    `Since ${momentText(since)}.`,
    ...(slowest?.slowest
      ? [`${slowest.client.name} waited longest: ${duration(slowest.slowest.ms)} for one ${slowest.slowest.service}.`]
      : []),
    ...(refused ? [`${refused.client.name} was refused most often: ${counted(refused.measured.failures, 'time')}.`] : []),
  ].join(' ')
}

/** The one with the most of something; null: none has any. */
const mostBy = (clients: readonly Total[], by: (total: Total) => number) =>
  clients.reduce<Total | null>((worst, one) => (by(one) > (worst ? by(worst) : 0) ? one : worst), null)
