import { basename, dirname } from 'node:path'
import { fault, isFault, type Fault } from '#core/faults/catalogue'
import { decoded, encodingOf } from '#core/formats/csv/encoding'
import { Folder } from '../links/files/folder'

const mostBytes = 8 * 1024 * 1024
/** A file that somebody writes just now is not whole. */
const settledMs = 1500

/** Null text: it is as it was seen. */
export interface ProgramFile {
  changedAt: number
  text: string | null
}

/** A file of a program below an allowed folder. @param seen when it was changed as it was seen last; null: it was not */
export const programFile = async (
  roots: () => readonly string[],
  { root, file }: { root: string; file: string },
  seen: number | null,
): Promise<ProgramFile | Fault> => {
  try {
    const way = dirname(file)
    const folder = new Folder({ root, folder: way === '.' ? '' : way }, roots)
    const found = (await folder.list(basename(file))).find(({ name }) => name === basename(file))
    if (!found) return fault('files.not-read', { way: file, problem: 'there is no such file' })
    const { changedAt, size } = found
    if (size > mostBytes) return fault('files.not-read', { way: file, problem: 'it is larger than 8 MB, and no file of declarations' })
    if (changedAt === seen || Date.now() - changedAt < settledMs) return { changedAt: seen ?? 0, text: null }
    const bytes = await folder.read(basename(file), 0, mostBytes)
    return { changedAt, text: decoded(bytes, encodingOf(bytes)) }
  } catch (error) {
    return isFault(error) ? error : fault('files.not-read', { way: file, problem: (error as Error).message })
  }
}
