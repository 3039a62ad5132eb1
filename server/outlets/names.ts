import { fault } from '#core/faults/catalogue'
import { tableText } from '#core/formats/csv/write'
import { FolderRules } from '#core/outlets/rules'
import { namesOf, type ListedNames } from '#shared/outlets/names'
import { settingsAs, type Outlet } from '#shared/outlets/outlet'
import { Refusal } from '../answers/refusal'
import { database } from '../store/database'

/** The short names of what an outlet shows, by path. */
export const listedNames = async (outlet: Outlet): Promise<ListedNames> => {
  const settings = settingsAs('opcua-server', outlet)
  if (!settings) throw new Refusal(fault('outlet.no-names', { name: outlet.name }))
  const tags = await database().selectFrom('tag').select(['id', 'path']).orderBy('path').execute()
  const { byPath, problems } = namesOf(tags, settings.shortNames)
  const shows = new FolderRules(settings.shows)
  const ofTags = new Set(tags.map(({ path }) => path))
  const names = [...byPath.values()]
    .filter(({ path }) => (ofTags.has(path) ? shows.at(path) !== 'nothing' : shows.opens(path)))
    .map((named) => ({
      ...named,
      kind: ofTags.has(named.path) ? ('tag' as const) : ('folder' as const),
      problem: problems.get(named.path) ?? null,
    }))
    .sort((a, b) => (a.path < b.path ? -1 : 1))
  return { names, left: settings.shortNames.own.filter(({ path }) => !byPath.has(path)) }
}

/** As RFC 4180 has it, with a header. */
export const namesAsCsv = ({ names }: ListedNames): string =>
  tableText([['short_name', 'path', 'kind', 'origin'], ...names.map(({ name, path, kind, how }) => [name, path, kind, how])])
