/** Copies text and says so for a moment. */
export const useCopy = () => {
  const copied = ref('')
  let timer: ReturnType<typeof setTimeout> | undefined
  const copy = async (text: string) => {
    await navigator.clipboard.writeText(text)
    copied.value = text
    clearTimeout(timer)
    timer = setTimeout(() => (copied.value = ''), 1500)
  }
  return { copied, copy }
}
