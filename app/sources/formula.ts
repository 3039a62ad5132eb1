import { scalarTypes } from '#core/tags/types'
import type { FormulaSource } from '#shared/sources/formula'
import FormulaBeside from '~/components/sources/FormulaBeside.vue'
import FormulaFields from '~/components/sources/FormulaFields.vue'
import type { SourceFace } from './face'

export const formulaFace: SourceFace<FormulaSource> = {
  fields: FormulaFields,
  timing: null,
  beside: FormulaBeside,
  access: 'read',
  holder: 'The formula',
  blank: () => ({ kind: 'formula', formula: '', inputs: {}, quality: 'worst' }),
  limits: () => ({ key: 'formula', types: scalarTypes, defaultType: 'float64', writable: false }),
  facts: ({ source }) => ({ address: `= ${source.formula}`, full: `= ${source.formula}`, words: '', every: '—', through: null }),
  next: ({ source }) => source,
  hasNext: () => false,
}
