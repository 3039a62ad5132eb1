import { mkdir } from 'node:fs/promises'
import { delimiter, isAbsolute, join } from 'node:path'

/** The folders below which links to files may write: those of CONDUIT_FILE_ROOTS, or one in the state folder, which is made. */
export const fileRoots = async (stateFolder: string, given = process.env.CONDUIT_FILE_ROOTS ?? ''): Promise<string[]> => {
  const roots = given.split(delimiter).filter((folder) => isAbsolute(folder))
  if (roots.length > 0) return roots
  const own = join(stateFolder, 'files')
  await mkdir(own, { recursive: true })
  return [own]
}
