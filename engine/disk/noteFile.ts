import { rename, writeFile } from 'node:fs/promises'

/** Writes something as JSON that is of use and not needed: as a whole, and where the disk does not take it, not at all. */
export const note = async (path: string, what: object): Promise<void> => {
  try {
    await writeFile(`${path}.new`, JSON.stringify(what), { mode: 0o600 })
    await rename(`${path}.new`, path)
  } catch {
    // it is noted the next time
  }
}
