import type { Rule } from '../rule'
import { deviceRules } from './devices'
import { identityRules } from './identity'
import { ownRules } from './own'
import { pointRules } from './points'
import { reachRules } from './reach'
import { serverRules } from './servers'
import { serviceRules } from './service'
import { tlsRules } from './tls'

/** Every cause that is known. A new one is an entry in one of these. */
export const rules: readonly Rule[] = [
  ...reachRules,
  ...serviceRules,
  ...tlsRules,
  ...identityRules,
  ...deviceRules,
  ...serverRules,
  ...pointRules,
  ...ownRules,
]
