import { randomBytes } from 'node:crypto'
import pg from 'pg'
import { inject } from 'vitest'
import { connect } from '#db/connect'
import { migrate } from '#db/migrate'

/** A database of a test file's own, with all tables; or with those of an earlier version. */
export const freshDatabase = async (upTo?: string) => {
  const name = `test_${randomBytes(6).toString('hex')}`
  const clusterUrl = inject('clusterUrl')
  const client = new pg.Client({ connectionString: clusterUrl })
  await client.connect()
  await client.query(`create database ${name}`)
  await client.end()
  const url = Object.assign(new URL(clusterUrl), { pathname: `/${name}` }).toString()
  const db = connect(url)
  await migrate(db, upTo)
  return { url, db }
}
