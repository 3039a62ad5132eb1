import { changeOutlet, showOutlet } from '#shared/api/outlets'
import type { CloudPlatformSettings } from '#shared/outlets/cloudPlatform'
import { settingsAs, type Outlet } from '#shared/outlets/outlet'

/** Platforms that tags of a folder may go to. */
export const platformsOf = (outlets: readonly Outlet[]) => outlets.filter(({ kind }) => kind === 'cloud-platform')

const isSentAs = ({ streams }: CloudPlatformSettings, folder: string) =>
  streams.some((one) => one.folder === '' || one.folder === folder || folder.startsWith(`${one.folder}/`))

/** Has the tags of a folder go to a platform, unless they do already. @returns the revision; null: nothing was to be changed */
export const sendFolder = async (outletId: number, folder: string, every: number | null): Promise<number | null> => {
  const { id, revision, ...outlet } = await callApi(showOutlet, { params: { id: outletId } })
  const settings = settingsAs('cloud-platform', outlet)
  if (!settings || isSentAs(settings, folder)) return null
  const changed = { ...settings, streams: [...settings.streams, { folder, every }] }
  const saved = await callApi(changeOutlet, {
    params: { id },
    body: { revision, outlet: { ...outlet, settings: changed } as typeof outlet },
  })
  return saved.revision
}
