import { bridge } from './bridge'
import { certificate } from './certificate'
import { display } from './display'
import { deviceDescription } from './deviceDescription'
import { equipment } from './equipment'
import { equipmentClass } from './equipmentClass'
import { link } from './link'
import { node } from './node'
import { outlet } from './outlet'
import { recording } from './recording'
import { recordSet } from './recordSet'
import { tag } from './tag'

/** Everything that is configured, by the table that holds it. A new subject is its line here, and files of its own. */
export const list = {
  certificate,
  deviceDescription,
  node,
  link,
  outlet,
  recordSet,
  equipmentClass,
  equipment,
  tag,
  bridge,
  recording,
  display,
} as const
