import { fault, isFault } from '#core/faults/catalogue'
import { textOf, type Carried } from '#core/messages/carried'
import { fitInto, type FieldType } from '#core/bridges/fit'
import type { Shaped } from '#core/bridges/parcel'
import type { Destination } from '#core/bridges/settings'
import { fieldTypeOf } from '#core/sql/columnTypes'
import type { RowStore, Verdict } from '../../links/receiving'
import { thrown, type Handed, type Surroundings, type Target } from './target'

type Table = Extract<Destination, { kind: 'table' }>

/** A table as a destination: each record is a row, brought into the types of its columns before it leaves. */
export class TableTarget implements Target {
  constructor(
    private around: Surroundings,
    private destination: Table,
  ) {}

  async deliver({ fields, records }: Handed): Promise<Verdict[]> {
    const { schema, table, how, key, parts } = this.destination
    const store = this.store()
    const types = await this.typesOf(store, fields)
    const verdicts: Verdict[] = records.map(() => null)
    const sent: number[] = []
    const rows: Carried[][] = []
    records.forEach(({ values }, i) => {
      const row = this.rowOf(values, fields, types)
      if ('code' in row) verdicts[i] = row
      else {
        sent.push(i)
        rows.push(row)
      }
    })
    if (rows.length === 0) return verdicts
    const put = await store.put({
      place: { schema, table },
      how,
      key,
      columns: fields,
      rows,
      ...(parts ? { parts: { ...parts, times: timesIn(rows, fields.indexOf(parts.column)) } } : {}),
    })
    put.forEach((verdict, i) => (verdicts[sent[i]!] = verdict))
    return verdicts
  }

  types(): Promise<FieldType[]> {
    return this.typesOf(
      this.store(),
      this.destination.fields.map(({ into }) => into),
    )
  }

  async preview({ fields, records }: Handed): Promise<string[]> {
    const types = await this.typesOf(this.store(), fields).catch(() => null)
    const cell = (value: Carried, i: number) => {
      const fit = types ? fitInto(types[i]!, value) : null
      return `${fields[i]} ${value === null ? 'null' : textOf(fit?.ok ? fit.value : value)}${fit && !fit.ok ? ` (${fit.text})` : ''}`
    }
    return records.map(({ values }: Shaped) => values.map(cell).join(', '))
  }

  private rowOf(values: readonly Carried[], fields: readonly string[], types: readonly FieldType[]) {
    const row: Carried[] = []
    for (let i = 0; i < fields.length; i++) {
      const fit = fitInto(types[i]!, values[i] ?? null)
      if (!fit.ok) return fault('bridge.fit', { field: `${this.destination.table}.${fields[i]}`, problem: fit.text })
      row.push(fit.value)
    }
    return row
  }

  /** A column that is not there may come back: what is kept waits for it. */
  private async typesOf(store: RowStore, fields: readonly string[]): Promise<FieldType[]> {
    const { schema, table, how } = this.destination
    const { columns, dialect } = await store.describe({ schema, table }, how === 'call' ? 'procedure' : 'table')
    return fields.map((field) => {
      const column = columns.find(({ name }) => name === field)
      if (!column)
        throw thrown(
          fault('bridge.fit', { field: `${table}.${field}`, problem: `there is no such ${how === 'call' ? 'parameter' : 'column'}` }),
        )
      return fieldTypeOf(column, dialect)
    })
  }

  private store(): RowStore {
    const link = this.around.link(this.destination.linkId)
    if (!link) throw thrown(fault('entry.gone', { thing: 'link', id: this.destination.linkId }))
    const receiver = link.receiver()
    if (isFault(receiver)) throw thrown(receiver)
    if (receiver.takes !== 'table') throw thrown(fault('bridge.no-receiver', { link: link.name, what: 'rows' }))
    return receiver
  }
}

const timesIn = (rows: readonly (readonly Carried[])[], at: number): number[] =>
  rows.flatMap((row) => (row[at] instanceof Date ? [row[at].getTime()] : []))
