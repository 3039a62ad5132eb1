import { z } from 'zod'
import { meant } from '#core/formats/csv/formulas'
import type { DecimalSign } from '#core/formats/csv/numbers'
import type { CsvRecord } from '#core/formats/csv/records'
import { protocolOf } from '#core/links/registry'
import type { LinkNames } from '../sources/columns'
import { pointSource } from '../sources/point'
import { circlesIn, circleText } from '../sources/circles'
import { isFrom, readPaths, rulesOf, settled, type SourceKind } from '../sources/registry'
import { tagDraft, type Tag, type TagDraft } from '../tags'
import type { FileBefore } from './base'
import { cellsOf, cellText } from './cells'
import { columnNamed, columnOfField, sourceKindOf, tagColumns, type TagColumn } from './columns'
import { draftFrom, problemsOf, type CellProblem } from './draft'
import { newPath } from './header'

/** A cell that becomes another one. */
export interface CellChange {
  column: string
  before: string
  after: string
}

/** What a line of a file comes to. */
export type Planned =
  | { what: 'added'; line: number; path: string; draft: TagDraft }
  | { what: 'changed'; line: number; path: string; tag: Tag; draft: TagDraft; changes: CellChange[]; kept?: Kept }
  | { what: 'same'; line: number; path: string; tag: Tag; kept?: Kept }
  | { what: 'removed'; line: null; path: string; tag: Tag }
  | { what: 'refused'; line: number; path: string; problems: CellProblem[]; cells: Record<string, string> }

/** What a line says. */
export interface WrittenLine {
  path: string
  cells: Record<string, string>
}

/** By column, what the file says as it did before, and somebody changed since. */
export type Kept = Record<string, string>

export interface TableHead {
  /** For each column of the file, ours; null: left out. */
  columns: readonly (string | null)[]
  decimal: DecimalSign
}

/** What there is now. */
export interface Known {
  tags: ReadonlyMap<string, Tag>
  links: LinkNames
  /** What the file before said, where this one is a newer one of the same. */
  before?: FileBefore | undefined
}

interface Placed {
  at: number
  column: TagColumn
}

/** What equipment decides of the tags that are its properties. */
const ownedColumns = new Set(['type', 'unit', 'description', 'limits', 'source'])
const ownedProblems = ({ tag, draft, changes }: Planned & { what: 'changed' }): CellProblem[] => [
  ...(draft.path === tag.path ? [] : [{ column: newPath, message: ownedText }]),
  ...changes.filter(({ column }) => ownedColumns.has(column)).map(({ column }) => ({ column, message: ownedText })),
]
const ownedText = 'Its equipment and class decide this: change it there.'

/**
 * Works out line by line what a table of tags comes to: what is added, what changes cell by cell, and what is refused
 * and why. Only the columns that the table has are touched. Lines are taken in the order of the file.
 *
 * @example
 * const plan = new TagPlan({ columns: ['path', 'gain'], decimal: ',' }, { tags, links })
 * for (const record of records) plan.take(record)
 * plan.end() // lines that only the whole table tells about
 */
export class TagPlan {
  readonly lines: Planned[] = []
  private placed: Placed[]
  private pathAt: number
  private newPathAt: number
  private sourceAt: number
  private linkAt: number
  /** New tags that were right, by the cells in which others are like them. */
  private right = new Map<string, TagDraft>()
  private alikeAt: number[]
  private typeAt: number
  private addressAt: number
  private descriptionAt: number
  /** Which of the lines is about which tag. */
  private named = new Map<string, number>()
  private byId: Map<number, Tag> | null = null

  constructor(
    private head: TableHead,
    private known: Known,
  ) {
    const at = (name: string) => head.columns.indexOf(name)
    this.pathAt = at('path')
    this.newPathAt = at(newPath)
    this.sourceAt = at('source')
    this.linkAt = at('link')
    this.typeAt = at('type')
    this.addressAt = at('address')
    this.descriptionAt = at('description')
    this.placed = head.columns.flatMap((name, index) => {
      const column = name === null || name === 'path' || name === 'source' ? undefined : columnNamed(name)
      return column ? [{ at: index, column }] : []
    })
    this.alikeAt = this.placed.filter(({ column }) => !own.has(column.name)).map(({ at: index }) => index)
    // a cell may mean something else by what stands in another one: columns are read in our order, not the file's
    this.placed.sort((a, b) => orderOf(a.column) - orderOf(b.column))
  }

  take(record: CsvRecord) {
    this.lines.push(this.planned(record))
  }

  private planned({ line, cells }: CsvRecord): Planned {
    const path = this.cell(cells, this.pathAt)
    const refuse = (problems: CellProblem[]): Planned => ({ what: 'refused', line, path, problems, cells: this.asWritten(cells) })
    if (cells.length > this.head.columns.length && cells.slice(this.head.columns.length).some((cell) => cell.trim() !== ''))
      return refuse([
        { column: null, message: `The line has ${cells.length} cells, and the table has ${this.head.columns.length} columns.` },
      ])
    if (path === '') return refuse([{ column: 'path', message: 'The line names no tag.' }])
    const tag = this.known.tags.get(path) ?? this.renamed(path)
    const at = tag?.path ?? path
    const earlier = this.named.get(at)
    if (earlier !== undefined) return refuse([{ column: 'path', message: `Line ${this.lines[earlier]!.line} is about this tag as well.` }])
    this.named.set(at, this.lines.length)
    const kind = this.kindOf(cells, tag)
    if (kind === null) return refuse([{ column: 'source', message: `“${this.cell(cells, this.sourceAt)}” is no source of tags.` }])
    if (!tag) return this.added(line, path, cells, kind, refuse)
    return this.changed(line, path, cells, tag, kind, refuse)
  }

  private changed(
    line: number,
    path: string,
    cells: readonly string[],
    tag: Tag,
    kind: SourceKind,
    refuse: (problems: CellProblem[]) => Planned,
  ): Planned {
    const draft = draftFrom(tag, tag.path, kind)
    const kept: Kept = tag.path === path ? {} : { path }
    const problems = this.fill(draft, cells, tag, this.known.before?.lineOf(path)?.cells, kept)
    if (problems === null) return { what: 'same', line, path: tag.path, tag, ...keptOf(kept) }
    if (problems.length > 0) return refuse(problems)
    const planned = this.change(line, tag, draft, kept)
    const owned = planned.what === 'changed' && isFrom('property', tag) ? ownedProblems(planned) : []
    return owned.length > 0 ? refuse(owned) : planned
  }

  /** A tag that the file before made, and that somebody calls otherwise by now. */
  private renamed(path: string): Tag | undefined {
    const id = this.known.before?.lineOf(path)?.id ?? null
    if (id === null) return undefined
    this.byId ??= new Map([...this.known.tags.values()].map((tag) => [tag.id, tag]))
    return this.byId.get(id)
  }

  /** A new tag; often it is like one before it, apart from its name and its address. */
  private added(
    line: number,
    path: string,
    cells: readonly string[],
    kind: SourceKind,
    refuse: (problems: CellProblem[]) => Planned,
  ): Planned {
    if (kind === 'property') return refuse([{ column: 'source', message: 'A property comes with its equipment: make that, or bind it.' }])
    const key = this.alikeKey(cells, kind)
    const like = this.right.get(key)
    const draft = like ? this.draftLike(like, path, cells) : draftFrom(undefined, path, kind)
    const problems = like ? this.problemsOf(draft, ownFields) : this.fill(draft, cells, undefined)!
    if (problems.length > 0) return refuse(problems)
    if (!like && this.right.size < mostRight) this.right.set(key, draft)
    return { what: 'added', line, path, draft: settled(draft, this.known.links.linkOf) }
  }

  /** The cells in which tags of one table are alike, with their lengths: a cell may hold whatever stands between two. */
  private alikeKey(cells: readonly string[], kind: SourceKind): string {
    let key: string = kind
    for (const at of this.alikeAt) key += `\n${cells[at]?.length} ${cells[at]}`
    // without a type it hangs on the address what a tag is; and only points have one
    const isAddressPart = kind !== 'point' || this.typeAt < 0 || this.cell(cells, this.typeAt) === ''
    return isAddressPart ? `${key}\n${this.cell(cells, this.addressAt)}` : key
  }

  private draftLike(like: TagDraft, path: string, cells: readonly string[]): TagDraft {
    const { source } = like
    const to = this.cell(cells, this.newPathAt)
    return {
      ...like,
      path: to === '' ? path : to,
      description: this.cell(cells, this.descriptionAt),
      source: isFrom('point', like) ? { ...like.source, address: this.cell(cells, this.addressAt) } : source,
    }
  }

  /** What a line of the file says, by our columns: where it is to be remembered. */
  writtenIn({ cells }: CsvRecord): WrittenLine {
    const named = this.placed.map(({ at, column }) => [column.name, this.cell(cells, at)] as const)
    return { path: this.cell(cells, this.pathAt), cells: Object.fromEntries(named) }
  }

  /** What the file has for our columns. */
  private asWritten(cells: readonly string[]): Record<string, string> {
    const named = this.head.columns.flatMap((column, at) => (column && cells[at] ? [[column, cells[at]] as const] : []))
    return Object.fromEntries(named)
  }

  /** Undefined columns are empty everywhere. */
  private cell(cells: readonly string[], at: number): string {
    return at < 0 ? '' : meant((cells[at] ?? '').trim())
  }

  private kindOf(cells: readonly string[], tag: Tag | undefined): SourceKind | null {
    const named = this.cell(cells, this.sourceAt)
    if (named !== '') return sourceKindOf(named) ?? null
    return tag?.source.kind ?? (this.cell(cells, this.linkAt) !== '' || this.linkAt < 0 ? 'point' : 'memory')
  }

  /** Sets what the cells say. @returns what is wrong with them, and with the tag that comes of it; null: they say what is there */
  private fill(
    draft: TagDraft,
    cells: readonly string[],
    tag: Tag | undefined,
    before: Record<string, string> = {},
    kept: Kept = {},
  ): CellProblem[] | null {
    const reading = { decimal: this.head.decimal, context: this.known.links }
    const problems: CellProblem[] = []
    let typed = tag !== undefined
    let isAsBefore = tag?.source.kind === draft.source.kind
    for (const { at, column } of this.placed) {
      const cell = this.cell(cells, at)
      if (this.isLeft(cell, column, draft, tag)) continue
      if (tag && before[column.name] === cell) {
        kept[column.name] = cell
        continue
      }
      isAsBefore = false
      const message = column.put(draft, cell, reading)
      if (message) problems.push({ column: column.name, message })
      else if (column.name === 'type') typed = true
    }
    const to = this.cell(cells, this.newPathAt)
    if (to !== '' && to !== draft.path) {
      draft.path = to
      isAsBefore = false
    }
    if (isAsBefore) return null
    if (problems.length > 0) return problems
    if (!tag) this.complete(draft, typed)
    return this.problemsOf(draft)
  }

  /** Whether a cell says nothing, or what is there already. */
  private isLeft(cell: string, column: TagColumn, draft: TagDraft, tag: Tag | undefined): boolean {
    if (cell === '' && (isKept(column) || !tag)) return true
    return tag !== undefined && cell === cellText(column.show(draft, this.known.links), this.head.decimal)
  }

  /** What a new tag needs and no cell says. */
  private complete(draft: TagDraft, isTyped: boolean) {
    const { linkOf } = this.known.links
    if (!isTyped) draft.type = rulesOf(draft.source.kind).usualType(draft.source, linkOf) ?? draft.type
    const link = isFrom('point', draft) ? linkOf(draft.source.linkId) : undefined
    if (link && isFrom('point', draft)) draft.source.options = { ...protocolOf(link.kind).optionsFor(draft.type, draft.source.options) }
  }

  /** @param contract all of it, or what is not known to be right already */
  private problemsOf(draft: TagDraft, contract: z.ZodType = tagDraft): CellProblem[] {
    return problemsOf(draft, this.known.links.linkOf, contract)
  }

  private change(line: number, tag: Tag, filled: TagDraft, kept: Kept): Planned {
    const { path } = tag
    const draft = settled(filled, this.known.links.linkOf)
    const changes = this.changesBetween(tag, draft)
    const said = keptOf(kept)
    return changes.length === 0 ? { what: 'same', line, path, tag, ...said } : { what: 'changed', line, path, tag, draft, changes, ...said }
  }

  /** Cell by cell, in all columns: a new link may take options along that no column of the file names. */
  private changesBetween(tag: Tag, draft: TagDraft): CellChange[] {
    const { links } = this.known
    const changes: CellChange[] = []
    for (const column of tagColumns) {
      const [before, after] = [column.show(tag, links), column.show(draft, links)]
      if (before !== after) changes.push({ column: column.name, before: cellText(before, '.'), after: cellText(after, '.') })
    }
    return changes
  }

  /**
   * What only shows when all lines were taken: tags that the table does not name, and paths that two would have.
   *
   * @param missing which of the tags that no line names are to be removed; null: none
   */
  end(missing: ((tag: Tag) => boolean) | null = null) {
    const goes = (tag: Tag) => missing !== null && missing(tag) && !this.named.has(tag.path) && !isFrom('property', tag)
    if (this.lines.some(isMoved)) this.refuseClashes(goes)
    this.refuseCircles(goes)
    if (missing === null) return
    for (const tag of this.known.tags.values()) if (goes(tag)) this.lines.push({ what: 'removed', line: null, path: tag.path, tag })
  }

  /** Lines by which tags would read themselves in the end. */
  private refuseCircles(goes: (tag: Tag) => boolean) {
    const drafted = this.lines.flatMap((planned, i) =>
      (planned.what === 'added' || planned.what === 'changed') && readPaths(planned.draft.source).length > 0 ? [{ ...planned, i }] : [],
    )
    if (drafted.length === 0) return
    const touched = new Set(drafted.map(({ path }) => path))
    const others = [...this.known.tags.values()].filter((tag) => !touched.has(tag.path) && !goes(tag))
    const paths = drafted.map(({ draft }) => draft.path)
    const found = circlesIn([...others, ...drafted.map(({ draft }) => draft)], paths)
    for (const { i, line, path, draft } of drafted) {
      const way = found.get(draft.path)
      if (!way) continue
      const problems = [{ column: columnOfField('source.inputs'), message: circleText(way) }]
      this.lines[i] = { what: 'refused', line, path, problems, cells: cellsOf(draft, this.known.links) }
    }
  }

  /** A line that is refused leaves its tag where it is, which may be where another one wants to go. */
  private refuseClashes(goes: (tag: Tag) => boolean) {
    for (let again = true; again;) {
      again = false
      const taken = new Map<string, number>()
      this.lines.forEach((planned, i) => {
        if (planned.what !== 'added' && !isMoved(planned)) return
        const { line, path, draft } = planned
        const other = taken.get(draft.path)
        if (other === undefined && !this.stays(draft.path, goes)) return void taken.set(draft.path, line)
        const message =
          other === undefined ? `There is a tag “${draft.path}” already.` : `Line ${other} wants to be “${draft.path}” as well.`
        const problems = [{ column: draft.path === path ? 'path' : newPath, message }]
        this.lines[i] = { what: 'refused', line, path, problems, cells: cellsOf(draft, this.known.links) }
        again = true
      })
    }
  }

  /** Whether a tag that is there now stays at this path. */
  private stays(path: string, goes: (tag: Tag) => boolean): boolean {
    const tag = this.known.tags.get(path)
    const named = this.named.get(path)
    return tag !== undefined && !goes(tag) && (named === undefined || !isMoved(this.lines[named]!))
  }
}

/** What tags of one table differ in. */
const own = new Set(['description', 'address'])
const ownFields = z.object({
  path: tagDraft.shape.path,
  description: tagDraft.shape.description,
  source: z.object({ address: pointSource.shape.address.optional() }),
})
const mostRight = 10_000

const keptOf = (kept: Kept) => (Object.keys(kept).length > 0 ? { kept } : {})

type Changed = Extract<Planned, { what: 'changed' }>
const isMoved = (planned: Planned): planned is Changed => planned.what === 'changed' && planned.draft.path !== planned.path

const orderOf = ({ name }: TagColumn) => tagColumns.findIndex((column) => column.name === name)

/** What is never empty: nothing in the cell leaves it as it is. */
const kept = new Set(['type', 'access', 'link', 'address'])
const isKept = ({ name }: TagColumn) => kept.has(name)
