import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { namedBy, placesOf, renamedPanes, troublesBelow } from '#core/displays/names'
import { freePlace, rowsOf, sizeOf } from '#core/displays/place'
import { displayContract, gridColumns, paneContract, type Pane } from '#core/displays/settings'
import type { ShownTag } from '#shared/displays'
import { namesApart, titleOf, doubtOf, paneText } from '../../app/displays/words'
import { windowLabel } from '../../app/displays/windowLabel'
import { blankShows, paneKinds } from '../../app/displays/blank'

const box = { x: 0, y: 0, w: 3, h: 2 }
const pane = (shows: object, more: object = {}): Pane => paneContract.parse({ ...box, ...more, shows })

describe('a display', () => {
  it('says of each field what is wrong with it', () => {
    const wrong = (panes: object[]) => {
      const read = displayContract.safeParse({ name: 'A', panes })
      return read.success ? [] : read.error.issues.map(({ path }) => path.join('.'))
    }
    expect(wrong([{ ...box, shows: { kind: 'value', of: '' } }])).toEqual(['panes.0.shows.of'])
    expect(wrong([{ ...box, x: 10, shows: { kind: 'words', text: '' } }])).toEqual(['panes.0.w'])
    expect(wrong([{ ...box, shows: { kind: 'value', of: 'a', scale: { low: 5, high: 5 } } }])).toEqual(['panes.0.shows.scale.high'])
    expect(wrong([{ ...box, shows: { kind: 'trend', of: [] } }])).toEqual(['panes.0.shows.of'])
    expect(wrong([{ ...box, shows: { kind: 'windows', of: 'a', each: { count: 7, unit: 'hour' } } }])).toEqual(['panes.0.shows.each.count'])
    expect(wrong([{ ...box, shows: { kind: 'picture' } }])).toEqual(['panes.0.shows.kind'])
    expect(wrong(Array.from({ length: 61 }, () => ({ ...box, shows: { kind: 'words', text: '' } })))).toEqual(['panes'])
  })

  it('names tags in the equipment first, and then by their whole paths', () => {
    expect(placesOf('load', 'Pier/Feeder')).toEqual(['Pier/Feeder/load', 'load'])
    expect(placesOf('berth/1/power', '')).toEqual(['berth/1/power'])
    expect([troublesBelow('', 'Pier/Feeder'), troublesBelow('berth', 'Pier/Feeder'), troublesBelow('', '')]).toEqual([
      'Pier/Feeder',
      'berth',
      '',
    ])
    const all = [
      pane({ kind: 'value', of: 'a' }),
      pane({ kind: 'table', of: ['b', 'c'] }),
      pane({ kind: 'troubles', below: 'folder' }),
      pane({ kind: 'words', text: 'a' }),
    ]
    expect(all.flatMap(({ shows }) => namedBy(shows))).toEqual(['a', 'b', 'c'])
    const renamed = renamedPanes(all, (path) => (path === 'b' || path === 'folder' ? `new/${path}` : path))
    expect(renamed.map(({ shows }) => shows)).toMatchObject([{ of: 'a' }, { of: ['new/b', 'c'] }, { below: 'new/folder' }, { text: 'a' }])
  })

  it('puts a new pane where nothing lies, as high up as there is room', () => {
    const boxes = fc.array(
      fc.record({ x: fc.integer({ min: 0, max: 8 }), y: fc.integer({ min: 0, max: 6 }), w: fc.integer({ min: 1, max: 4 }), h: fc.integer({ min: 1, max: 3 }) }), // prettier-ignore
      { maxLength: 12 },
    )
    fc.assert(
      fc.property(boxes, fc.integer({ min: 1, max: gridColumns }), (all, w) => {
        const placed = freePlace(all, { w, h: 2 })
        expect(placed.x + placed.w).toBeLessThanOrEqual(gridColumns)
        expect(placed.y).toBeLessThanOrEqual(rowsOf(all))
        for (const other of all)
          expect(
            placed.x >= other.x + other.w ||
              other.x >= placed.x + placed.w ||
              placed.y >= other.y + other.h ||
              other.y >= placed.y + placed.h,
          ).toBe(true)
      }),
    )
    expect(freePlace([box], { w: 3, h: 1 })).toMatchObject({ x: 3, y: 0 })
  })

  it('begins each kind of pane as something that can be filled in', () => {
    for (const { value } of paneKinds) {
      const read = paneContract.safeParse({ ...box, ...sizeOf[value], shows: blankShows(value) })
      const wrong = read.success ? [] : read.error.issues.map(({ path }) => path[1])
      expect(wrong.filter((field) => field !== 'of')).toEqual([])
    }
  })
})

const tag = (named: string, more: Partial<ShownTag> = {}): ShownTag => ({
  ...{ named, id: 1, path: named, type: 'float64', unit: 'kW', names: [] },
  title: named.slice(named.lastIndexOf('/') + 1),
  ...more,
})
const live = (value: number | boolean, quality = 0) => ({ id: 1, value, type: 'float64' as const, quality, sourceTime: 1, seenAt: 1 })

describe('what stands on panes', () => {
  it('has no more digits than are read, or as many as were asked for', () => {
    expect(paneText(live(1534.440123), tag('a'))).toBe('1534.44')
    expect(paneText(live(1534.440123), tag('a'), 0)).toBe('1534')
    expect(paneText(live(-15344.46), tag('a'), 1)).toBe('−15\u202f344.5')
    expect(paneText(live(1234567), tag('a'))).toBe('1\u202f234\u202f567')
    expect(paneText(live(2), tag('a', { names: [{ value: 2, name: 'docked' }] }))).toBe('docked')
    expect(paneText(undefined, tag('a'))).toBe('—')
  })

  it('is told apart by as much of the paths as that takes', () => {
    const all = ['berth/1/shore/power', 'berth/2/shore/power', 'berth/2/shore/energy']
    expect(namesApart(all, (named) => tag(named))).toEqual(['1 › shore › power', '2 › shore › power', 'energy'])
  })

  it('says why it is not to be believed', () => {
    expect(doubtOf(tag('a'), live(1), false)).toBeNull()
    expect(doubtOf(tag('a', { id: null }), undefined, false)).toMatchObject({ isBad: true, text: 'nothing goes by this name' })
    expect(doubtOf(tag('a'), live(1), true)).toMatchObject({ isBad: true, text: 'not known now' })
    expect(doubtOf(tag('a'), live(1, 0x40a40000), false)).toMatchObject({ isBad: false })
    expect(doubtOf(tag('a'), live(1, 0x80310000), false)).toMatchObject({ isBad: true })
  })

  it('is called as what it shows, unless somebody said otherwise', () => {
    const of = (named: string) => (named === 'none' ? undefined : tag(named, { title: 'Load' }))
    expect(titleOf({ kind: 'state', of: 'load', marks: [] }, of)).toBe('Load')
    expect(titleOf({ kind: 'state', of: 'none', marks: [] }, of)).toBe('none')
    expect(titleOf({ kind: 'trend', of: ['load'], length: 1 }, of)).toBe('Load')
  })

  it('names windows by when they begin', () => {
    const at = new Date(2026, 10, 8, 6, 5, 4).getTime()
    expect((['second', 'hour', 'day', 'month', 'year'] as const).map((unit) => windowLabel(at, unit))).toEqual(['06:05:04', '06:05', '11-08', '2026-11', '2026']) // prettier-ignore
  })
})
