import { fault } from '#core/faults/catalogue'
import type { InputValue } from '#core/bridges/run'
import { carriedOf } from '#core/bridges/tagValue'
import type { QuerySettings } from '#core/records/settings'
import { qualityText, severityOf } from '#core/tags/quality'
import type { TagTable } from '../table/tagTable'
import type { TagRegister } from '../tags/tagRegister'
import { thrown } from './work'

export interface InputsGround {
  table: TagTable
  tags: TagRegister
}

/** What the tags have that a statement names; throws a fault where one has nothing that could be used. */
export const inputsOf = (take: QuerySettings['take'], { tags, table }: InputsGround): InputValue[] =>
  take.map(({ name, path }) => {
    const tag = tags.byPath(path)
    if (!tag) throw thrown(fault('records.no-parameter', { parameter: name, problem: `there is no tag ${path}` }))
    const [value, code] = [table.values[tag.handle], table.quality[tag.handle]!]
    if (value === undefined || severityOf(code) === 'bad')
      throw thrown(fault('records.no-parameter', { parameter: name, problem: `${path} is ${qualityText(code)}` }))
    return { value: carriedOf(value, tag.passedOn), quality: code, at: table.sourceTime[tag.handle]!, unit: tag.unit, names: tag.names }
  })
