import { gridColumns, type Pane, type ShowsKind } from './settings'

type Box = Pick<Pane, 'x' | 'y' | 'w' | 'h'>

/** As large as a new pane is, in columns and rows. */
export const sizeOf: Record<ShowsKind, { w: number; h: number }> = {
  value: { w: 2, h: 2 },
  state: { w: 2, h: 2 },
  trend: { w: 6, h: 4 },
  windows: { w: 4, h: 4 },
  table: { w: 4, h: 4 },
  troubles: { w: 6, h: 4 },
  words: { w: 4, h: 1 },
}

const overlap = (a: Box, b: Box) => a.x < b.x + b.w && b.x < a.x + a.w && a.y < b.y + b.h && b.y < a.y + a.h

/** The first free place for a box of a size, from the top, from the left. */
export const freePlace = (boxes: readonly Box[], { w, h }: Pick<Box, 'w' | 'h'>): Box => {
  for (let y = 0; ; y++)
    for (let x = 0; x + w <= gridColumns; x++) {
      const box = { x, y, w, h }
      if (!boxes.some((other) => overlap(box, other))) return box
    }
}

/** How many rows there are. */
export const rowsOf = (boxes: readonly Box[]): number => Math.max(0, ...boxes.map(({ y, h }) => y + h))
