import type { BridgeDraft } from '#core/bridges/settings'

/** A bridge that was pasted, on its way to the sheet that takes it up. */
export const usePasted = () => {
  const pasted = useState<BridgeDraft | null>('pasted-bridge', () => null)
  return {
    give: (draft: BridgeDraft) => (pasted.value = draft),
    take: () => {
      const draft = toRaw(pasted.value)
      pasted.value = null
      return draft
    },
  }
}
