import { sql, type Kysely, type Migration } from 'kysely'

/** Outlets had one port on loopback; now they have doors. */
export const doors: Migration = {
  async up(db: Kysely<unknown>) {
    await sql`
      update outlet
      set settings = jsonb_build_object(
        'anonymousMayWrite', coalesce(settings->'anonymousMayWrite', 'true'::jsonb),
        'users', '[]'::jsonb,
        'doors', jsonb_build_array(jsonb_build_object(
          'on', true, 'interface', '127.0.0.1', 'port', settings->'port', 'giveOut', '',
          'policies', jsonb_build_array('None'), 'modes', jsonb_build_array('SignAndEncrypt'),
          'anonymous', true, 'names', false)))
      where kind = 'opcua-server' and settings ? 'port'
    `.execute(db)
  },
}
