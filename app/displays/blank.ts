import type { Shows, ShowsKind } from '#core/displays/settings'

/** What panes can show, and how a new one begins. */
export const paneKinds: { value: ShowsKind; title: string; subtitle: string }[] = [
  { value: 'value', title: 'Value', subtitle: 'one number, large, with a level' },
  { value: 'state', title: 'State', subtitle: 'what a machine does, as a stretch of pipe' },
  { value: 'trend', title: 'Trend', subtitle: 'the last while of some tags' },
  { value: 'windows', title: 'Windows', subtitle: 'a bar for each hour, day or so' },
  { value: 'table', title: 'Table', subtitle: 'many values, line by line' },
  { value: 'troubles', title: 'Troubles', subtitle: 'what is not well' },
  { value: 'words', title: 'Words', subtitle: 'a heading or a note' },
]

export const blankShows = (kind: ShowsKind): Shows => {
  switch (kind) {
    case 'value':
      return { kind, of: '', decimals: null, scale: null }
    case 'state':
      return { kind, of: '', marks: [] }
    case 'trend':
      return { kind, of: [''], length: 600_000 }
    case 'windows':
      return { kind, of: '', how: 'mean by time', each: { count: 1, unit: 'hour' }, count: 24 }
    case 'table':
      return { kind, of: [''] }
    case 'troubles':
      return { kind, below: '', most: 10 }
    case 'words':
      return { kind, text: '' }
  }
}
