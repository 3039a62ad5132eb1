/** What both pipes are told, and how they tell what they used. */
export const pipe = {
  source: Number(process.env.CONDUIT_BENCH_SOURCE),
  count: Number(process.env.CONDUIT_BENCH_COUNT),
  publishing: Number(process.env.CONDUIT_BENCH_PUBLISHING),
}

export interface Piped {
  port: number
  namespace: string
}

/** Says where it serves; asked anything, how many milliseconds of the processor it has used. */
export const answerWithUsage = (piped: Piped) => {
  process.on('message', () => {
    const { user, system } = process.cpuUsage()
    process.send!((user + system) / 1000)
  })
  process.send!(piped)
  process.once('disconnect', () => process.exit(0))
}
