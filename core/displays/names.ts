import type { DisplayDraft, Shows } from './settings'

/** The tags that a pane names, as it names them. */
export const namedBy = (shows: Shows): readonly string[] => {
  switch (shows.kind) {
    case 'troubles':
    case 'words':
      return []
    case 'trend':
    case 'table':
      return shows.of
    default:
      return [shows.of]
  }
}

/** Where what is named may be found, the closest first. @param equipment for which it is shown; empty: for none */
export const placesOf = (named: string, equipment: string): string[] => (equipment === '' ? [named] : [`${equipment}/${named}`, named])

/** The folder whose troubles a pane lists; empty: the whole site. */
export const troublesBelow = (below: string, equipment: string): string => (below === '' ? equipment : below)

/** A display once what it names by whole paths is called otherwise. */
export const renamedPanes = (panes: DisplayDraft['panes'], nowCalled: (path: string) => string): DisplayDraft['panes'] =>
  panes.map((pane) => ({ ...pane, shows: renamed(pane.shows, nowCalled) }))

const renamed = (shows: Shows, nowCalled: (path: string) => string): Shows => {
  switch (shows.kind) {
    case 'words':
      return shows
    case 'troubles':
      return { ...shows, below: nowCalled(shows.below) }
    case 'trend':
    case 'table':
      return { ...shows, of: shows.of.map(nowCalled) }
    default:
      return { ...shows, of: nowCalled(shows.of) }
  }
}
