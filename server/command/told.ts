import type { Difference } from '#core/text/differences'
import { counted } from '#core/text/counted'
import type { Change } from '#db/siteText/changes'
import { sections } from '#db/siteText/document'
import type { Misfit, SitePlan } from '#db/siteText/plan'

const signs = { made: '+', changed: '~', removed: '-' } as const

/** A line for each thing, and below one that changes a line for each field. */
export const changesText = (changes: readonly Change[], fieldsOf: (change: Change) => Difference[], most: number): string[] => {
  const shown = changes.slice(0, most).flatMap((change) => {
    const fields = change.what === 'changed' ? fieldsOf(change).map(fieldText) : []
    return [`${signs[change.what]} ${change.subject} ${change.name}`, ...fields]
  })
  return changes.length > most ? [...shown, `… and ${(changes.length - most).toLocaleString('en-GB')} more (--all shows them)`] : shown
}

const fieldText = ({ field, before, after }: Difference) => `    ${field}: ${before ?? 'nothing'} → ${after ?? 'nothing'}`

const words = { made: 'added', changed: 'changed', removed: 'removed' } as const

/** How many of each kind. */
export const countsText = ({ changes, same }: SitePlan, revision: number): string => {
  const lines = sections.flatMap(({ subject, section }) => {
    const ours = changes.filter((change) => change.subject === subject)
    const parts = (['made', 'changed', 'removed'] as const).map(
      (what) => [ours.filter((change) => change.what === what).length, words[what]] as const,
    )
    const told = parts.filter(([count]) => count > 0).map(([count, word]) => `${count.toLocaleString('en-GB')} ${word}`)
    return told.length > 0 ? [`${section}: ${told.join(', ')}`] : []
  })
  return `Against revision ${revision}: ${[...lines, `${counted(same, 'thing')} the same`].join('; ')}.`
}

export const problemsText = (name: string, problems: readonly Misfit[]): string =>
  problems.map(({ line, column, path, message }) => `${name}:${line}:${column}: ${path === '' ? '' : `${path}: `}${message}`).join('\n')
