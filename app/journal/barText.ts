import type { Bar } from '#core/journal/picture'
import { counted } from '#core/text/counted'
import { momentText } from '#core/text/moment'

const day = 86_400_000

/** What stands below a bar: the day where bars are days, the time where they are shorter. */
export const barLabel = (at: number, width: number): string => {
  const [date, time] = momentText(at).split(' ') as [string, string]
  if (width >= day) return date
  return width >= 60_000 ? (time === '00:00:00' ? date.slice(5) : time.slice(0, 5)) : time
}

/** What a bar says in words. */
export const barText = (bar: Bar, width: number): string => {
  const parts = [
    bar.trouble > 0 && counted(bar.trouble, 'trouble'),
    bar.caution > 0 && counted(bar.caution, 'caution'),
    bar.note > 0 && counted(bar.note, 'note'),
  ].filter(Boolean)
  const end = momentText(bar.at + width)
  return `${momentText(bar.at)} to ${width < day ? end.slice(11) : end.slice(0, 10)}: ${parts.join(', ') || 'nothing'}`
}
