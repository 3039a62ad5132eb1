/** Files that run at once would else be given the same port between finding it free and opening it. */
const [lowest, width, ranges] = [12_000, 4000, 5]
const from = lowest + (Number(process.env.VITEST_POOL_ID ?? 0) % ranges) * width
process.env.CONDUIT_PORTS = `${from}-${from + width - 1}`
