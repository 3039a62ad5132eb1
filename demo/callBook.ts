import { Client } from 'pg'

/** The vessel call book: a database of its own, with an account of its own, in the cluster of the demo. */
export const callBook = { database: 'callbook', user: 'callbook', password: 'harrow-sound' } as const

const voyages = [
  ['HS-2217', 'Sound Runner', 'berth/1', 1500, '2026-11-26T05:40Z'],
  ['HS-2218', 'Harrow Maid', 'berth/2', 950, '2026-11-26T06:15Z'],
  ['HS-2219', 'Isle Ferry', 'berth/3', 680, '2026-11-26T07:05Z'],
] as const

const profiles = [
  ['Sound Runner', 11_000, 50, 60],
  ['Harrow Maid', 690, 50, 40],
  ['Isle Ferry', 440, 60, 25],
] as const

const fleet = [
  ['Grey Heron', 6600, 50, 40, 1800],
  ['Little Auk', 6600, 50, 40, 950],
  ['Storm Petrel', 11_000, 60, 55, 2400],
  ['Black Guillemot', 6600, 60, 45, 1600],
  ['Manx', 11_000, 60, 60, 2600],
] as const

/** What each of the next voyages takes of the shore: voyage, berth, and the profile of its ship. */
const powerProfiles = Array.from({ length: 18 }, (_, i) => {
  const [ship, volts, hertz, ramp, limit] = fleet[i % fleet.length]!
  const day = String(20 + (i % 6)).padStart(2, '0')
  return [`HS-${2214 + i}`, `berth/${(i % 3) + 1}`, ship, volts, hertz, ramp, limit, `2026-11-${day}T0${3 + (i % 6)}:10Z`] as const
})

/** What ships took that have left: the meter by quarter hours, with what it cost then. */
const billed = [
  ['HS-2211', 'Grey Heron', 'berth/1', 181_204.5, 312.4],
  ['HS-2212', 'Storm Petrel', 'berth/2', 96_880.25, 441.75],
  ['HS-2213', 'Manx', 'berth/3', 60_117, 203.5],
].flatMap(([voyage, ship, berth, first, step], day) =>
  Array.from({ length: 13 }, (_, i) => {
    const at = new Date(Date.UTC(2026, 10, 23 + day, 4, 15 * i)).toISOString()
    return [voyage, at, ship, berth, Number(first) + i * Number(step), 58 + ((i * 7) % 23)] as const
  }),
)

/** Makes what is missing; safe to repeat. */
export const prepareCallBook = async (clusterUrl: string) => {
  const { database, user, password } = callBook
  await using(clusterUrl, async (admin) => {
    const { rows: roles } = await admin.query('select 1 from pg_roles where rolname = $1', [user])
    if (roles.length === 0) await admin.query(`create role ${user} login password '${password}'`)
    const { rows: databases } = await admin.query('select 1 from pg_database where datname = $1', [database])
    if (databases.length === 0) await admin.query(`create database ${database} owner ${user}`)
  })
  const url = Object.assign(new URL(clusterUrl), { pathname: `/${database}`, username: user, password })
  await using(url.toString(), async (book) => {
    await book.query(`
      create table if not exists voyage (
        number text primary key, ship text not null, berth text not null, limit_kw integer not null, arrived timestamptz not null
      );
      create table if not exists passengers (
        at timestamptz not null, gate text not null, aboard integer, ashore integer
      );
      create index if not exists passengers_at on passengers (at);
      create table if not exists profile (
        ship text primary key, volts integer not null, hertz integer not null, ramp_kw_s integer not null
      );
      create table if not exists tariff (season text, hour integer, per_kwh numeric(8,4) not null, primary key (season, hour));
      create table if not exists energy (
        voyage text, at timestamptz, ship text not null, berth text not null, meter_kwh double precision not null, eur_mwh double precision not null,
        primary key (voyage, at)
      );
      create table if not exists visit (voyage text primary key, ship text not null, berth text not null, handed_in_at timestamptz not null);
      create table if not exists peak (berth text primary key, kw double precision not null, seen_at timestamptz not null);
      create table if not exists power_profile (
        voyage text primary key, berth text not null, ship text not null, volts integer not null, hertz integer not null,
        ramp_s integer not null, limit_kw numeric(12,4) not null, changed_at timestamptz not null
      );
      create or replace function power_plan(voyage text, hours integer)
        returns table (ship text, berth text, limit_kw double precision, energy_kwh double precision) language sql stable as $$
        select p.ship, p.berth, p.limit_kw::float8, round(p.limit_kw * hours * 0.8, 1)::float8 from power_profile p where p.voyage = power_plan.voyage
      $$;
      create or replace view alongside as
        select v.berth, v.number, v.ship, v.limit_kw, p.volts, p.hertz, p.ramp_kw_s
        from voyage v left join profile p using (ship);
      create or replace procedure note_peak(at_berth text, kw double precision, seen_at timestamptz) language sql as $$
        insert into peak values (at_berth, kw, seen_at)
          on conflict (berth) do update set kw = excluded.kw, seen_at = excluded.seen_at where peak.kw < excluded.kw
      $$`)
    for (const profile of profiles)
      await book.query('insert into profile values ($1, $2, $3, $4) on conflict (ship) do nothing', [...profile])
    for (const row of powerProfiles)
      await book.query('insert into power_profile values ($1, $2, $3, $4, $5, $6, $7, $8) on conflict (voyage) do nothing', [...row])
    for (const row of billed)
      await book.query('insert into energy values ($1, $2, $3, $4, $5, $6) on conflict (voyage, at) do nothing', [...row])
    for (const voyage of voyages)
      await book.query('insert into voyage values ($1, $2, $3, $4, $5) on conflict (number) do nothing', [...voyage])
  })
}

const using = async (connectionString: string, work: (client: Client) => Promise<void>) => {
  const client = new Client({ connectionString })
  await client.connect()
  try {
    await work(client)
  } finally {
    await client.end()
  }
}
