import { grouped } from '../lists/grouped'
import { folderOf } from '../tags/path'
import type { DataType } from '../tags/types'
import type { Model } from './model'
import { proposals } from './proposals'
import type { EquipmentSaid } from './table'

/** Equipment from folders of tags that go by a pattern. */

interface Candidate {
  path: string
  type: DataType
  unit: string
}

export interface FoldersAsked {
  class: string
  /** Folders: a star stands for what differs. `berth/*` */
  pattern: string
  /** Where each goes: `{1}` is what the first star stood for. `Harrow Sound/Berth {1}/Feeder` */
  to: string
}

/** What is wrong with where they go; null: nothing. */
export const toProblem = ({ pattern, to }: FoldersAsked): string | null => {
  const stars = pattern.split('*').length - 1
  const used = [...to.matchAll(/\{(\d+)\}/g)].map(([, n]) => Number(n))
  const wrong = used.find((n) => n < 1 || n > stars)
  if (wrong !== undefined) return `There is no star number ${wrong} in “${pattern}”.`
  const missing = Array.from({ length: stars }, (_, i) => i + 1).find((n) => !used.includes(n))
  return missing === undefined ? null : `{${missing}} says where what the star stands for goes, so that each has a place of its own.`
}

/** One piece for each folder that goes by the pattern, with the inputs that the tags within it most likely are. */
export const equipmentFromFolders = (asked: FoldersAsked, tags: readonly Candidate[], model: Model): EquipmentSaid[] => {
  const properties = model.propertiesOf(asked.class)
  const levels = asked.pattern.split('/')
  const expression = new RegExp(`^${levels.map((level) => level.split('*').map(literal).join('([^/]*)')).join('/')}$`, 'u')
  const rooted = (path: string) => path.split('/').slice(0, levels.length).join('/')
  const within = tags.filter(({ path }) => path.split('/').length > levels.length)
  const byFolder = grouped(within, ({ path }) => rooted(path))
  let line = 0
  return [...byFolder].flatMap(([folder, all]) => {
    const found = expression.exec(folder)
    if (!found) return []
    const path = asked.to.replace(/\{(\d+)\}/g, (_, n: string) => found[Number(n)] ?? '')
    // what lies directly in the folder is closer than what lies below
    const direct = all.filter((tag) => folderOf(tag.path) === folder)
    const near = proposals(properties, direct)
    const rest = properties.filter(({ name }) => !near.some(({ property }) => property === name))
    const far = proposals(rest, all)
    const bindings = Object.fromEntries([...near, ...far].map(({ property, path: of }) => [property, of]))
    return [{ line: ++line, path, fields: { class: asked.class }, constants: {}, bindings, problems: [] }]
  })
}

const literal = (text: string) => text.replace(/[\\^$.*+?()[\]{}|/]/g, '\\$&')
