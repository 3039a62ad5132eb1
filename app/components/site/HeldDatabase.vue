<script setup lang="ts">
import { settleDatabase } from '#shared/api/site'
import { momentText } from '#core/text/moment'
import type { Apart, Choice } from '#shared/heldDatabase'
import { subjectWord } from '~/subjects'

/** A database that is no continuation of what is in force: what is apart, and the two ways on. */
const live = useLive()
const session = useSession()
const notices = useNotices()
const held = computed(() => live.status?.heldDatabase ?? null)
const asked = ref<Choice | null>(null)
const { busy, refused, attempt } = useAttempt()

const columns = [
  { key: 'missing', title: 'in force, missing there' },
  { key: 'other', title: 'another there' },
  { key: 'only', title: 'only there' },
] as const
const many = (subject: string) => {
  const word = subjectWord(subject)
  return word === 'equipment' ? word : word.endsWith('s') ? `${word}es` : `${word}s`
}
const figure = (row: Apart, key: (typeof columns)[number]['key']) => row[key] || ''

const settle = () => {
  const take = asked.value!
  asked.value = null
  return attempt(async () => {
    const { revision } = await callApi(settleDatabase, { body: { take } }, { timeoutMs: 120_000 })
    notices.tell(
      take === 'database'
        ? `The database is taken as it is, as revision ${revision}.`
        : `What is in force is in the database again, as revision ${revision}.`,
    )
  })
}
</script>

<template>
  <section v-if="held" class="sheet part" aria-label="The database is held back">
    <h2 class="sheet-title">Which of the two holds?</h2>
    <div class="two">
      <div>
        <h3>In force</h3>
        <p>
          Revision {{ held.inForce.revision }}<template v-if="held.inForce.at"> of {{ momentText(held.inForce.at) }}</template
          >. Links, outlets and bridges run by it, and go on.
        </p>
        <BusyButton v-if="session.can('administer')" :busy="busy" color="primary" variant="flat" @click="asked = 'in force'">
          Bring it back into the database
        </BusyButton>
      </div>
      <div>
        <h3>In the database</h3>
        <p>
          <template v-if="held.revision === 0">An empty site.</template>
          <template v-else
            >Revision {{ held.revision }} of {{ momentText(held.at) }}: {{ held.what
            }}<template v-if="held.who"> ({{ held.who }})</template>.</template
          >
          It was found so on {{ momentText(held.since) }}.
        </p>
        <BusyButton v-if="session.can('administer')" :busy="busy" @click="asked = 'database'">Take the database as it is</BusyButton>
      </div>
    </div>
    <p v-if="!session.can('administer')" class="quiet">Whoever administers the site decides.</p>
    <FaultNote v-if="refused" :fault="refused.why" />
    <table v-if="held.apart.length > 0" class="rows">
      <thead>
        <tr>
          <th>What is apart</th>
          <th v-for="{ key, title } in columns" :key="key" class="figure">{{ title }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in held.apart" :key="row.subject">
          <td>{{ many(row.subject) }}</td>
          <td v-for="{ key } in columns" :key="key" class="figure">{{ figure(row, key) }}</td>
        </tr>
      </tbody>
    </table>
    <p v-else class="quiet">Both have the same things.</p>
    <AskDialog
      :model-value="asked !== null"
      :title="asked === 'database' ? 'Take the database as it is?' : 'Bring what is in force back?'"
      :yes="asked === 'database' ? 'Take it' : 'Bring it back'"
      no="Not yet"
      :grave="asked === 'database'"
      @update:model-value="asked = null"
      @yes="settle"
    >
      <p v-if="asked === 'database'">
        What is apart takes effect at once: what is missing there stops, what is another there starts anew. What was in force cannot be had
        back from here afterwards.
      </p>
      <p v-else>
        One revision puts everything back that is in force, and takes away what is only in the database. Nothing that runs is disturbed; the
        revision can be taken back.
      </p>
    </AskDialog>
  </section>
</template>

<style scoped>
.part {
  padding: 12px 16px;
  margin-bottom: 14px;
  border-left: 4px solid var(--copper);
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 24px;
  margin: 8px 0 12px;
}
.two > div {
  display: flex;
  flex-direction: column;
  gap: 8px;
  align-items: flex-start;
}
h3,
.two p {
  margin: 0;
}
h3 {
  font-size: 13px;
  font-weight: 600;
}
.figure {
  text-align: right;
}
@media (width < 800px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
