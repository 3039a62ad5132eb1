import { Cron } from 'croner'

/** What is wrong with a schedule; null: nothing. */
export const cronProblem = (cron: string): string | null => {
  const fields = cron.split(/\s+/).length
  if (fields < 5 || fields > 6) return 'A schedule has five fields, as in 0 6 * * 1-5, or six with the second before them.'
  try {
    return new Cron(cron, { paused: true }).nextRun() === null ? 'This never comes.' : null
  } catch (error) {
    return `This is no schedule: ${(error as Error).message.replace(/^CronPattern: /, '')}`
  }
}

export const zoneProblem = (zone: string): string | null => {
  try {
    new Intl.DateTimeFormat('en', { timeZone: zone })
    return null
  } catch {
    return `“${zone}” is no time zone: it is written as in Europe/Oslo, or UTC.`
  }
}
