import type { ClassDraft, EquipmentDraft, Made, Property } from '#core/equipment/settings'

export const blankClass = (): ClassDraft => ({ name: '', parent: '', level: 'work unit', description: '', properties: [] })

export const blankEquipment = (folder = ''): EquipmentDraft => ({
  path: folder === '' ? '' : `${folder}/`,
  ...{ class: '', level: null, relations: [], constants: {}, bindings: {}, description: '' },
})

export const blankMade = (kind: Made['kind'], of = ''): Made => {
  switch (kind) {
    case 'constant':
      return { kind, value: null }
    case 'input':
      return { kind, alone: false }
    case 'formula':
      return { kind, formula: '' }
    case 'rollup':
      return { kind, of, how: 'mean by time', window: { count: 15, unit: 'minute' }, over: 1, shows: 'last' }
    case 'gather':
      return { kind, of, how: 'sum', class: '', depth: 'children' }
  }
}

export const blankProperty = (kind: Made['kind'], of = ''): Property => ({
  ...{ name: '', title: '', type: 'float64', unit: '', description: '', limits: [] },
  made: blankMade(kind, of),
})

export const madeKinds: readonly { value: Made['kind']; title: string; subtitle: string }[] = [
  { value: 'constant', title: 'constant', subtitle: 'the same until somebody changes it' },
  { value: 'input', title: 'input', subtitle: 'a tag that is bound to it' },
  { value: 'formula', title: 'formula', subtitle: 'worked out from the other properties' },
  { value: 'rollup', title: 'rollup', subtitle: 'a property over windows of time' },
  { value: 'gather', title: 'of children', subtitle: 'what its parts have together' },
]
