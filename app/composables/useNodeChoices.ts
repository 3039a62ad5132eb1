/** Where a link can run: here, or on one of the site’s nodes. */
export const useNodeChoices = () => {
  const live = useLive()
  return computed(() => {
    const nodes = (live.status?.nodes ?? []).map(({ id, name, sentence }) => ({ value: id, title: name, subtitle: sentence }))
    return [{ value: null as number | null, title: 'This machine', subtitle: 'the engine of this site' }, ...nodes]
  })
}
