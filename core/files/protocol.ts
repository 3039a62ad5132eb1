import { noPoints, pointless } from '../links/pointless'
import type { Protocol } from '../links/protocol'
import type { FilesSettings } from './settings'

export const files: Protocol = {
  ...pointless('A folder of files'),
  kind: 'files',
  title: 'Files',
  subtitle: 'CSV files in a folder on the machine of the engine',
  capabilities: { ...noPoints, receives: 'file' },
  goal: () => null,
  place: (settings) => {
    const { root, folder } = settings as FilesSettings
    return [root || 'first allowed folder', folder].filter(Boolean).join('/')
  },
  whyNotKept: () => null,
}
