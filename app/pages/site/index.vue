<script setup lang="ts">
import { addressOf } from '#shared/api/operation'
import { nameSite, siteText } from '#shared/api/site'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'

const live = useLive()
const session = useSession()
const lists = useLists()
const notices = useNotices()
/** Counts up where revisions were forgotten: the list is read anew. */
const forgotten = ref(0)
const name = ref('')
const zone = ref('')
watch(
  () => [lists.siteName, lists.siteZone] as const,
  ([siteName, siteZone]) => {
    name.value = siteName
    zone.value = siteZone
  },
  { immediate: true },
)
/** Those that the browser knows; the server may know more. */
const zones = Intl.supportedValuesOf('timeZone')
const zoneMessage = ref('')
watch(zone, () => (zoneMessage.value = ''))

const rename = async () => {
  try {
    await callApi(nameSite, { body: { name: name.value, zone: zone.value } })
    notices.tell('Name and clock of the site saved.')
  } catch (error) {
    const { fields, why } = asRefused(error)
    zoneMessage.value = fields.find(({ path }) => path === 'zone')?.message ?? ''
    if (!zoneMessage.value) notices.tellProblem(fields[0]?.message ?? why.what)
  }
}
</script>

<template>
  <div class="page">
    <SiteHead />
    <HeldDatabase />
    <NotAsConfigured />
    <div class="columns">
      <RevisionTable :key="forgotten" />
      <div class="side">
        <form class="sheet part" @submit.prevent="rename">
          <TextField v-model="name" label="Name of the site" />
          <SuggestField
            v-model="zone"
            class="rename"
            label="Its clock"
            :among="zones"
            placeholder="as the engine’s machine has it"
            hint="By it days begin: for rollups over days, weeks and months"
            :message="zoneMessage"
          />
          <v-btn type="submit" class="rename" :disabled="(name === lists.siteName && zone === lists.siteZone) || !session.can('configure')"
            >Save</v-btn
          >
        </form>
        <section v-if="live.status" class="sheet part">
          <h2 class="sheet-title">Engine</h2>
          <dl>
            <dt>Node</dt>
            <dd class="mono">{{ live.status.node }}</dd>
            <dt>Runs for</dt>
            <dd>{{ duration(live.status.now - live.status.startedAt) }}</dd>
            <dt>Configuration</dt>
            <dd>
              revision {{ live.status.configurationRevision }},
              {{ live.status.configurationFrom === 'database' ? 'from the database' : 'last known, kept on disk' }}
            </dd>
            <dt>In force</dt>
            <dd :class="{ 'is-late': live.status.notInForceCount > 0 }">
              {{
                live.status.notInForceCount > 0 ? `${counted(live.status.notInForceCount, 'thing')} not as configured` : 'all as configured'
              }}
            </dd>
            <dt>Database</dt>
            <dd :class="{ 'is-broken': !live.status.databaseConnected }">{{ live.status.databaseConnected ? 'connected' : 'away' }}</dd>
          </dl>
        </section>
        <section class="sheet part">
          <h2 class="sheet-title">As a text</h2>
          <p class="told">
            The whole configuration as YAML, fit for version control; secrets only by their names. <code>./conduit site</code> compares and
            applies it, on this site or on another.
          </p>
          <v-btn :href="`/api${addressOf(siteText, {})}`" download="site.yaml">Take it along</v-btn>
        </section>
        <section v-if="session.can('configure')" class="sheet part">
          <h2 class="sheet-title">For whoever helps</h2>
          <p class="told">
            A handover pack: configuration, versions, the machine, the state of everything, journal, path checks and what passed last, in
            one file without secrets. Its <code>summary.html</code> opens anywhere.
          </p>
          <p class="told">A pack from elsewhere is opened in an empty copy, which is connected to nothing then.</p>
          <div class="row">
            <PackMaker v-if="!lists.siteCase" />
            <CaseOpener v-if="session.can('administer') && !lists.siteCase" />
          </div>
        </section>
        <Suspense><AllowedFolders /></Suspense>
        <Suspense><RevisionKeeping @forgot="forgotten++" /></Suspense>
      </div>
    </div>
  </div>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: minmax(0, 7fr) minmax(0, 3fr);
  gap: 16px;
  align-items: start;
}
.side {
  display: grid;
  gap: 14px;
}
.part {
  padding: 12px 16px;
}
.rename {
  margin-top: 10px;
}
code {
  font-family: var(--mono);
}
.told {
  margin: 4px 0 8px;
}
dl {
  display: grid;
  grid-template-columns: 110px 1fr;
  gap: 4px;
  margin: 8px 0 0;
}
dt {
  color: var(--quiet);
}
dd {
  margin: 0;
}
</style>
