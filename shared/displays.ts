import { z } from 'zod'
import { severities } from '#core/alarms/limits'
import { idField, momentField, nameField, savedShape, wholeNumber } from '#core/contracts/fields'
import { displayContract, mostPanes, showsContract } from '#core/displays/settings'
import { dataTypes } from '#core/tags/types'
import { seriesPicture, seriesWindows } from './history'
import { valueNames } from './valueNames'
import { wireValue, type LiveValue } from './values'

/** Displays as they travel, what their panes show, and wall screens. */

export const savedDisplay = displayContract.extend(savedShape).meta({ id: 'Display', description: 'What somebody looks at, on a grid.' })
export type Display = z.output<typeof savedDisplay>
export const displayChange = z.object({ revision: idField('A revision'), display: displayContract })

const pathField = z.string().trim().max(240, 'A path has at most 240 characters.')
const inEquipment = pathField.default('').describe('For which equipment; empty: for none.')

const mostNamed = 2000
export const namedAsked = z.object({
  named: z.array(pathField).max(mostNamed, `At most ${mostNamed} names.`).describe('Tags, as panes name them.'),
  in: inEquipment,
})

const shownTag = z
  .object({
    named: z.string(),
    id: z.int().nullable().describe('The tag; null: nothing goes by this name.'),
    path: z.string(),
    type: z.enum(dataTypes),
    unit: z.string(),
    title: z.string().describe('As people call it.'),
    names: valueNames,
  })
  .meta({ id: 'NamedTag', description: 'What a pane names, found.' })
export type ShownTag = z.output<typeof shownTag>
export const shownTags = z.array(shownTag)

const columnsField = wholeNumber('The number of columns', 50, 4000).default(600)
export const paneAsked = z.object({ shows: showsContract, in: inEquipment, columns: columnsField })

export const trouble = z
  .object({
    of: z.enum(['alarm', 'tag', 'link', 'bridge', 'outlet', 'record set']),
    title: z.string(),
    text: z.string().describe('What is happening.'),
    severity: z.enum(severities),
    since: momentField.nullable(),
    to: z.string().describe('The page where it is mended.'),
  })
  .meta({ id: 'Trouble' })
export type Trouble = z.output<typeof trouble>

/** What a pane shows that is not the present value of a tag. */
export const paneContent = z
  .discriminatedUnion('kind', [
    z.object({ kind: z.literal('live').describe('Only values of tags.') }),
    z.object({ kind: z.literal('trend'), from: momentField, to: momentField, pictures: z.array(seriesPicture) }),
    z.object({ kind: z.literal('windows'), series: seriesWindows.nullable().describe('Null: nothing goes by its name.') }),
    z.object({ kind: z.literal('troubles'), total: z.int(), items: z.array(trouble) }),
  ])
  .meta({ id: 'PaneContent' })
export type PaneContent = z.output<typeof paneContent>

export const wallLink = z
  .object({
    id: z.int(),
    displayId: z.int(),
    name: z.string(),
    equipment: z.string().describe('For which equipment; empty: for all of the class, or for none.'),
    turnSeconds: z.int().nullable().describe('After so long it goes on to the next equipment; null: it stays.'),
    dark: z.boolean(),
    madeBy: z.string(),
    madeAt: z.iso.datetime(),
    expiresAt: z.iso.datetime(),
    usedAt: z.iso.datetime().nullable(),
  })
  .meta({ id: 'WallLink', description: 'By which a screen shows one display, and may do nothing else.' })
export type WallLink = z.output<typeof wallLink>

export const newWallLink = z.object({
  displayId: idField('A display'),
  name: nameField('wall link'),
  equipment: pathField.default(''),
  turnSeconds: wholeNumber('The time for one equipment, in seconds,', 5, 3600).nullable().default(null),
  dark: z.boolean().default(false),
  days: wholeNumber('The time it is valid, in days,', 1, 3650),
})

const token = z.string().min(10, 'The token of the link.').max(200, 'The token of the link.')
export const wallAsked = z.object({
  token,
  in: pathField.nullable().default(null).describe('For which equipment of those it may show; null: the first.'),
})
export const wallPaneAsked = z.object({
  token,
  in: pathField.default(''),
  pane: wholeNumber('A pane', 0, mostPanes - 1),
  columns: columnsField,
})

const liveValue = z.object({
  id: z.int(),
  value: wireValue,
  type: z.enum(dataTypes),
  quality: z.int(),
  sourceTime: momentField,
  seenAt: momentField,
}) satisfies z.ZodType<LiveValue>

export const wallShown = z
  .object({
    display: savedDisplay,
    site: z.string(),
    dark: z.boolean(),
    turnSeconds: z.int().nullable(),
    equipment: z.array(z.string()).describe('All that it may show.'),
    in: z.string().describe('For which it is shown now.'),
    tags: shownTags,
    values: z.array(liveValue),
    now: momentField.nullable().describe('The clock of the engine; null: it does not answer, and nothing is known of the values.'),
    until: z.iso.datetime().describe('When the link ends.'),
  })
  .meta({ id: 'WallShown', description: 'A display as a wall screen has it.' })
export type WallShown = z.output<typeof wallShown>
