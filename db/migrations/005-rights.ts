import { sql, type Kysely, type Migration } from 'kysely'

/** Who may do what went from one mark to rules by folder; tags got the range of their values. */
export const rights: Migration = {
  async up(db: Kysely<unknown>) {
    await db.schema.alterTable('tag').addColumn('range', 'jsonb').execute()
    await sql`
      update outlet
      set settings = (settings - 'anonymousMayWrite') || jsonb_build_object(
        'doors', (select jsonb_agg(door || '{"certificates": false}') from jsonb_array_elements(settings->'doors') door),
        'shows', '[{"folder": "", "may": "write"}]'::jsonb,
        'anonymous', jsonb_build_array(jsonb_build_object(
          'folder', '', 'may', case when (settings->>'anonymousMayWrite')::boolean then 'write' else 'read' end)),
        'users', coalesce((
          select jsonb_agg(jsonb_build_object(
            'name', person->'name',
            'key', jsonb_build_object('kind', 'password', 'password', person->'password'),
            'rules', jsonb_build_array(jsonb_build_object(
              'folder', '', 'may', case when (person->>'mayWrite')::boolean then 'write' else 'read' end))))
          from jsonb_array_elements(settings->'users') person), '[]'::jsonb),
        'shortNames', '{"on": false, "most": 64, "own": []}'::jsonb,
        'onRequest', '{"on": false, "most": 100, "mayWrite": false}'::jsonb,
        'health', true)
      where kind = 'opcua-server' and settings ? 'anonymousMayWrite'
    `.execute(db)
  },
}
