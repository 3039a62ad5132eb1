import { defineNitroPlugin } from 'nitropack/runtime'
import { noteEvent } from '../journal/note'
import { closeDatabase } from '../store/database'
import { closeHistory } from '../store/history'
import { programWatcher } from '../programs/watcher'
import { keepForgetting } from '../store/forgetting'
import { tagWorker } from '../worker/tagWorker'
import { engineClient } from '../runtime/engineClient'
import { liveHub } from '../runtime/liveHub'

/** Opens what lives as long as the process, and closes it. The launcher's end is ours, too. */
export default defineNitroPlugin((nitro) => {
  if (!process.env.CONDUIT_DATABASE) return
  engineClient.start()
  liveHub.start()
  tagWorker.warm()
  programWatcher.start()
  const stopForgetting = keepForgetting()
  void noteReturn()
  process.on('unhandledRejection', (reason) => console.error('unexpected', reason))
  process.once('disconnect', () => process.exit(0))
  nitro.hooks.hook('close', async () => {
    stopForgetting()
    programWatcher.close()
    liveHub.close()
    engineClient.close()
    await tagWorker.close()
    await closeHistory()
    await closeDatabase()
  })
})

/** A web process that takes the place of one that died or hung says so. */
const noteReturn = async () => {
  const because = process.env.CONDUIT_RETURNED_BECAUSE
  if (!because) return
  await noteEvent('caution', 'Web', `Brought back: ${because}.`)
}
