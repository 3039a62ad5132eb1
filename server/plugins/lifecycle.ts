import { defineNitroPlugin } from 'nitropack/runtime'
import { closeDatabase } from '../lib/database'
import { engineClient } from '../lib/engineClient'
import { liveHub } from '../lib/liveHub'

/** Opens what lives as long as the process, and closes it. The launcher's end is ours, too. */
export default defineNitroPlugin((nitro) => {
  if (!process.env.CONDUIT_DATABASE) return
  engineClient.start()
  liveHub.start()
  process.on('unhandledRejection', (reason) => console.error('unexpected', reason))
  process.once('disconnect', () => process.exit(0))
  nitro.hooks.hook('close', async () => {
    liveHub.close()
    engineClient.close()
    await closeDatabase()
  })
})
