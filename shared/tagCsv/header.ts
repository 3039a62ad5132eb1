import { plainName } from '#core/formats/column'
import { columnNamed, tagColumns } from './columns'

/** What tables call our columns in other words of the trade. */
const otherNames: Record<string, string> = {
  tag: 'path',
  name: 'path',
  tag_name: 'path',
  data_type: 'type',
  interval_ms: 'interval',
  every: 'interval',
  scale: 'gain',
  factor: 'gain',
  engineering_unit: 'unit',
  low_limit: 'low',
  high_limit: 'high',
  states: 'names',
  value_names: 'names',
  comment: 'description',
}

/** The column that says where a tag goes that is renamed; only files that come in have it. */
export const newPath = 'new_path'

/** The column that a header means; null: none of ours. */
export const columnMeant = (header: string): string | null => {
  const name = plainName(header)
  const meant = Object.hasOwn(otherNames, name) ? otherNames[name]! : name
  return meant === newPath || columnNamed(meant) ? meant : null
}

/** The columns of a table that names none. */
export const usualColumns: readonly string[] = tagColumns.map(({ name }) => name)
