import { sections, type Part } from '#db/siteText/document'
import type { Things } from '#db/siteText/write'
import { isFrom } from '#shared/sources/registry'

/**
 * The lists that a text of a part holds: those that are named, or all; of a folder or a link only tags.
 *
 * @returns in words what there is not
 */
export const partOf = (things: Things, only: readonly string[] | null, part: Part): Partial<Things> | string => {
  const ofTags = part.folder !== undefined || part.link !== undefined
  const wanted = only ?? (ofTags ? ['tags'] : sections.map(({ section }) => section))
  const unknown = wanted.find((name) => !sections.some(({ section }) => section === name))
  if (unknown !== undefined) return `There is no list “${unknown}”. There are ${sections.map(({ section }) => section).join(', ')}.`
  if (ofTags && wanted.join() !== 'tags') return 'A folder or a link chooses among tags; nothing else goes with them.'
  const link = part.link === undefined ? undefined : things.link.find(({ name }) => name === part.link)
  if (part.link !== undefined && !link) return `There is no link “${part.link}”.`
  const tags = things.tag.filter(
    (tag) =>
      (part.folder === undefined || tag.path.startsWith(`${part.folder}/`)) &&
      (!link || (isFrom('point', tag) && tag.source.linkId === link.id)),
  )
  const chosen = sections.filter(({ section }) => wanted.includes(section))
  return Object.fromEntries(chosen.map(({ subject }) => [subject, subject === 'tag' ? tags : things[subject]]))
}
