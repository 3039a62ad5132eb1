import { runBundled } from './child'
import { perSecond, times, type Section } from './report'

interface Measured {
  measured: { text: string; ours: number; plain: number; numbers: number }[]
}

export const imagesCase = async (): Promise<Section> => {
  const { measured } = await runBundled<Measured>('images.ts')
  return {
    title: 'Process images of smart sensors, decoded by their description',
    how: 'Images per second, the middle of five runs of a million. Plain: the image as one whole number, shifted and masked by what the description says of each value; once with numbers of any width, once with numbers of 32 bits.',
    rows: measured.flatMap(({ text, ours, plain, numbers }) => [
      { what: `${text}, any width`, ours: perSecond(ours), plain: perSecond(plain), ratio: times(ours / plain), aim: 'over 1,000,000/s' },
      { what: `${text}, 32 bits`, ours: perSecond(ours), plain: perSecond(numbers), ratio: times(ours / numbers), aim: 'at least 1' },
    ]),
  }
}
