<script setup lang="ts">
import { listCheckSheets, makeCheckSheet } from '#shared/api/checks'
import { dayText } from '#core/text/moment'
import type { CheckSheet } from '#shared/checks'

/** Sheets by which points are checked one by one against a far side. */
const session = useSession()
const { busy, refused, attempt } = useAttempt()
const sheets = shallowRef<CheckSheet[] | null>(null)
const load = () =>
  attempt(async () => {
    sheets.value = (await callApi(listCheckSheets, { query: { limit: 500 } })).items
  })
await load()

const making = ref(false)
const name = ref('')
const against = ref('')
const folders = ref('')
const make = () =>
  attempt(async () => {
    const made = await callApi(makeCheckSheet, { body: { name: name.value, against: against.value, below: listedNames(folders.value) } })
    await navigateTo(`/tags/checks/${made.id}`)
  })
useRowKeys(() => ({ n: session.can('operate') ? () => (making.value = true) : undefined, Escape: () => (making.value = false) }))
</script>

<template>
  <div class="page">
    <div class="page-head">
      <h1>Check sheets</h1>
      <span class="fill" />
      <v-btn to="/tags">Tags</v-btn>
      <Allowed role="operate"><v-btn variant="flat" @click="making = true">New sheet</v-btn></Allowed>
    </div>
    <FaultNote v-if="refused" :fault="refused.why" mild />
    <form v-if="making" class="sheet part" @submit.prevent="make">
      <h2 class="sheet-title">New sheet</h2>
      <div class="fields">
        <TextField v-model="name" label="Name" />
        <TextField v-model="against" label="Against" placeholder="panel, SCADA, controller" />
        <TextField v-model="folders" label="Tags, or folders with all that lies in them" placeholder="berth/1, berth/2/meter" />
      </div>
      <div class="row">
        <BusyButton type="submit" variant="flat" color="primary" :busy="busy" :disabled="name.trim() === '' || folders.trim() === ''">
          Make sheet
        </BusyButton>
        <v-btn @click="making = false">Not now</v-btn>
      </div>
    </form>
    <EmptyState
      v-if="sheets?.length === 0 && !making"
      title="No check sheet yet"
      text="Before a plant is handed over, each point is checked against the far side: what is expected, what is seen, by whom and how. A sheet is worked off by several people at once, also without a connection for a while; what is changed afterwards is told to be checked again. It is printed with a digest for whoever signs it."
    >
      <Allowed role="operate"><v-btn variant="flat" @click="making = true">Make a sheet</v-btn></Allowed>
    </EmptyState>
    <section v-else-if="sheets && sheets.length > 0" class="sheet">
      <table class="rows" aria-label="Check sheets">
        <thead>
          <tr>
            <th>Name</th>
            <th>Against</th>
            <th class="number">Points</th>
            <th class="number">Good</th>
            <th class="number">Not good</th>
            <th class="number">Again</th>
            <th class="number">Left</th>
            <th>Begun</th>
            <th>Closed</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="one in sheets"
            :key="one.id"
            class="opens"
            tabindex="0"
            @click="navigateTo(`/tags/checks/${one.id}`)"
            @keydown.enter="navigateTo(`/tags/checks/${one.id}`)"
          >
            <td class="name">
              <strong>{{ one.name }}</strong>
            </td>
            <td class="quiet">{{ one.against }}</td>
            <td class="number">{{ one.points }}</td>
            <td class="number">{{ one.counts.good || '' }}</td>
            <td class="number" :class="{ 'is-broken': one.counts.bad > 0 }">{{ one.counts.bad || '' }}</td>
            <td class="number" :class="{ 'is-late': one.counts.again > 0 }">{{ one.counts.again || '' }}</td>
            <td class="number">{{ one.counts.unchecked + one.counts.open || '' }}</td>
            <td class="quiet">{{ dayText(one.madeAt) }} {{ one.madeBy }}</td>
            <td class="quiet">{{ one.closedAt === null ? '' : `${dayText(one.closedAt)} ${one.closedBy}` }}</td>
          </tr>
        </tbody>
      </table>
    </section>
  </div>
</template>

<style scoped>
.part {
  padding: 12px 16px;
  margin-bottom: 14px;
}
.fields {
  display: grid;
  grid-template-columns: 1fr 1fr 2fr;
  gap: 12px;
  margin: 8px 0 12px;
}
.row {
  display: flex;
  gap: 8px;
}
.name {
  overflow-wrap: anywhere;
}
</style>
