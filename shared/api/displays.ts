import { z } from 'zod'
import { displayContract } from '#core/displays/settings'
import {
  displayChange,
  namedAsked,
  newWallLink,
  paneAsked,
  paneContent,
  savedDisplay,
  shownTags,
  wallAsked,
  wallLink,
  wallPaneAsked,
  wallShown,
} from '../displays'
import { listQuery, listWhole, pageOf } from './lists'
import { operation } from './operation'
import { removed } from './removed'

const group = 'Displays'
const example: z.input<typeof displayContract> = {
  name: 'Shore power',
  panes: [{ x: 0, y: 0, w: 3, h: 2, shows: { kind: 'value', of: 'berth/1/shore/active_power', scale: { low: 0, high: 8000 } } }],
}

export const listDisplays = operation('GET /displays', {
  group,
  needs: 'look',
  does: 'All displays.',
  query: listQuery(['name', 'class', 'id', 'revision'], listWhole),
  answer: pageOf(savedDisplay),
})

export const showDisplay = operation('GET /displays/{id}', { group, needs: 'look', does: 'A display.', answer: savedDisplay })

export const makeDisplay = operation('POST /displays', {
  group,
  needs: 'configure',
  does: 'Makes a display: panes on a grid, of its own or for each equipment of a class.',
  body: displayContract,
  example,
  answer: savedDisplay,
  faults: ['entry.taken'],
})

export const changeDisplay = operation('PUT /displays/{id}', {
  group,
  needs: 'configure',
  does: 'Changes a display, unless somebody else did since.',
  body: displayChange,
  example: { revision: 9, display: example },
  answer: savedDisplay,
  faults: ['entry.taken', 'entry.edited'],
})

export const removeDisplay = operation('DELETE /displays/{id}', {
  group,
  needs: 'configure',
  does: 'Removes a display, and the wall links to it.',
  answer: removed,
})

export const findNamed = operation('POST /displays/named', {
  group,
  needs: 'look',
  does: 'Finds what panes name: a property of the equipment, something below it, or a tag by its whole path.',
  body: namedAsked,
  example: { named: ['load'], in: 'Harrow Sound/Berth 2/Converter' },
  answer: shownTags,
})

export const fillPane = operation('POST /displays/pane', {
  group,
  needs: 'look',
  does: 'What a pane shows besides present values: a picture of the last while, windows of time, a list of troubles.',
  body: paneAsked,
  example: { shows: { kind: 'troubles' } },
  answer: paneContent,
  faults: ['engine.away', 'history.slow'],
})

export const listWallLinks = operation('GET /wall-links', {
  group,
  needs: 'look',
  does: 'The links by which wall screens show displays. What they are was told once only.',
  query: listQuery(['name', 'id', 'displayId', 'expiresAt']),
  answer: pageOf(wallLink),
})

export const makeWallLink = operation('POST /wall-links', {
  group,
  needs: 'configure',
  does: 'Makes a link by which a screen shows one display without anybody signed in, until it ends.',
  body: newWallLink,
  example: { displayId: 3, name: 'Control room, left', days: 365 },
  answer: z.object({ token: z.string().describe('Told this once.'), shown: wallLink }),
  faults: ['display.no-equipment'],
})

export const takeWallLinkBack = operation('DELETE /wall-links/{id}', {
  group,
  needs: 'configure',
  does: 'Ends a wall link at once.',
  answer: z.object({ removed: z.int() }),
})

export const showWall = operation('POST /wall', {
  group,
  needs: 'anyone',
  does: 'A display and what its tags have now, for whoever has the token of a wall link.',
  body: wallAsked,
  size: 'small',
  example: { token: 'a-token-of-a-wall-link' },
  answer: wallShown,
  faults: ['display.no-wall'],
})

export const fillWallPane = operation('POST /wall/pane', {
  group,
  needs: 'anyone',
  does: 'What one pane of such a display shows besides present values.',
  body: wallPaneAsked,
  size: 'small',
  example: { token: 'a-token-of-a-wall-link', pane: 0 },
  answer: paneContent,
  faults: ['display.no-wall', 'engine.away', 'history.slow'],
})
