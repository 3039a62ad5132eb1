import { tableText } from '../../formats/csv/write'
import type { ProgramPoint } from './points'

/** The tags of a program as a table of tags; the description is only touched where the program says something. */
export const programTable = (points: readonly ProgramPoint[], link: string): string => {
  const hasComments = points.some(({ description }) => description !== '')
  const header = ['path', 'link', 'address', 'type', 'form', 'length', 'elements', ...(hasComments ? ['description'] : [])]
  const rows = points.map(({ path, address, type, form, length, count, description }) => [
    ...[path, link, address, type, usual(form), length, count],
    ...(hasComments ? [description] : []),
  ])
  return tableText([header, ...rows])
}

/** What a type has by itself is not said. */
const usual = (form: ProgramPoint['form']) => (form === 'counted' || form === 'bcd8' ? null : form)
