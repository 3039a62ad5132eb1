import { z } from 'zod'
import type { FaultCode } from '#core/faults/catalogue'
import { checkPart, pathRecord } from '../diagnosis'

const gone: FaultCode[] = ['entry.gone']

/** What all operations have in common that walk a path. */
export const walk = {
  needs: 'operate' as const,
  answer: checkPart,
  as: 'lines' as const,
  engine: true as const,
  farSide: true as const,
  faults: gone,
}

/** What all operations have in common that list the checks that were made. */
export const checks = {
  needs: 'look' as const,
  answer: z.array(pathRecord).describe('Bytes that passed are there for whoever may configure.'),
  engine: true as const,
  faults: gone,
}
