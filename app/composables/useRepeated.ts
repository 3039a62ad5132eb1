/** Does something now and again and again while a component is there, never twice at once. */
export const useRepeated = (work: () => Promise<void>, everyMs: number) => {
  let timer: ReturnType<typeof setTimeout> | undefined
  let gone = false
  const turn = async () => {
    await work()
    if (!gone) timer = setTimeout(() => void turn(), everyMs)
  }
  onMounted(() => void turn())
  onUnmounted(() => {
    gone = true
    clearTimeout(timer)
  })
}
