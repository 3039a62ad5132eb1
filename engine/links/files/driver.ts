import { randomBytes } from 'node:crypto'
import { constants } from 'node:fs'
import { open, unlink } from 'node:fs/promises'
import { join } from 'node:path'
import { fault, type Fault } from '#core/faults/catalogue'
import type { FilesSettings } from '#core/files/settings'
import type { CheckStep } from '#shared/status'
import { checkSteps } from '../checkSteps'
import type { CheckContext, LinkDriver } from '../driver'
import { Folder } from './folder'
import { FilesLinkSession } from './session'

const { waiting, sound, failed, notReached } = checkSteps({ folder: 'Folder', write: 'A file of ours' })

/** The folder, made where it is missing, and a file that is written there and removed again. */
async function* checkFiles(settings: FilesSettings, _signal: AbortSignal, around: CheckContext): AsyncGenerator<CheckStep> {
  yield waiting('folder')
  let began = performance.now()
  let place: string
  try {
    place = await new Folder(settings, () => around.roots()).place()
    yield sound('folder', place, performance.now() - began)
  } catch (why) {
    yield failed('folder', why as Fault, performance.now() - began)
    return yield* notReached('folder')
  }
  yield waiting('write')
  began = performance.now()
  const path = join(place, `.conduit-check-${randomBytes(4).toString('hex')}`)
  try {
    const handle = await open(path, constants.O_WRONLY | constants.O_CREAT | constants.O_EXCL)
    await handle.write('check')
    await handle.datasync()
    await handle.close()
    yield sound('write', 'written and removed again', performance.now() - began)
  } catch (error) {
    const problem = (error as Error).message
    yield failed('write', fault('files.not-written', { way: place, problem }, problem), performance.now() - began)
  } finally {
    await unlink(path).catch(() => {})
  }
}

export const filesDriver: LinkDriver<FilesSettings> = {
  open: (context) => new FilesLinkSession(context),
  check: checkFiles,
  tryRead: () => Promise.resolve(noPoint()),
}

const noPoint = () => ({
  ...{ stages: [], readings: [], wordsFrom: '', goesTo: [] },
  fault: fault('entry.unreadable', { problem: 'A folder of files has no points that could be read.' }),
})
