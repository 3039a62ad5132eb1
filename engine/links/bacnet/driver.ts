import type { BacnetSettings } from '#core/bacnet/settings'
import type { LinkDriver } from '../driver'
import { checkBacnet } from './check'
import { BacnetSession } from './session'
import { tryReadBacnet } from './tryRead'

export const bacnetDriver: LinkDriver<BacnetSettings> = {
  open: (context) => new BacnetSession(context),
  check: checkBacnet,
  tryRead: tryReadBacnet,
}
