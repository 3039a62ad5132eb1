<script setup lang="ts">
import { momentText } from '#core/text/moment'
import { counted } from '#core/text/counted'
import { closeCase, showCase } from '#shared/api/site'
import type { AnswerOf } from '#shared/api/operation'

/** What a handover pack tells besides what the other pages show of it. */
const session = useSession()
const lists = useLists()
const notices = useNotices()
const shown = shallowRef<AnswerOf<typeof showCase> | null>(null)
const asking = ref(false)
const { busy, refused, attempt } = useAttempt()
await attempt(async () => {
  shown.value = await callApi(showCase)
})

const facts = computed<[string, string][]>(() => {
  const { head } = shown.value!
  return [
    ['Site', head.site],
    ['Pack made', `${momentText(Date.parse(head.madeAt))} by ${head.by}`],
    ['Revision', String(head.revision)],
    ['Version', head.version],
    ['Opened here', `${momentText(Date.parse(head.openedAt))} by ${head.openedBy}`],
  ]
})
/** A text of several lines, such as a routing table, keeps its form. */
const machine = computed(() =>
  Object.entries(shown.value!.machine).map(([what, value]): [string, string] => [
    machineWords[what as keyof typeof machineWords],
    what === 'clock' ? momentText(value as number) : Array.isArray(value) ? value.join('\n') : String(value ?? 'not known'),
  ]),
)
const machineWords: Record<keyof AnswerOf<typeof showCase>['machine'], string> = {
  ...{ host: 'Host', system: 'System', processor: 'Processor', cores: 'Cores', memoryMb: 'Memory, MB', memoryFreeMb: 'Free, MB' },
  ...{ diskFreeMb: 'Disk free, MB', upSeconds: 'Up for, s', clock: 'Clock', zone: 'Time zone', node: 'Runtime' },
  ...{ addresses: 'Addresses', routes: 'Routes', listening: 'Listening', clockState: 'Clock state' },
}
const places = [
  { to: '/', title: 'Line-up', what: 'what flowed, was late or broken' },
  { to: '/journal', title: 'Journal', what: 'the last events' },
  { to: '/journal/statistics', title: 'Statistics', what: 'requests, failures by cause, answer times' },
  { to: '/traffic', title: 'Traffic', what: 'what passed last, decoded' },
  { to: '/tags', title: 'Tags', what: 'with the values that they had' },
]
const stopped = computed(() => {
  const seen = new Set<string>()
  return shown.value!.checks.filter(({ of, id, outcome }) => {
    const isNewest = !seen.has(`${of} ${id}`)
    seen.add(`${of} ${id}`)
    return isNewest && outcome === 'stopped'
  })
})
const folders = { link: 'links', outlet: 'outlets', bridge: 'bridges', tag: 'tags' } as const
const nameOf = (of: keyof typeof folders, id: number) =>
  of === 'bridge'
    ? (lists.bridges.find((one) => one.id === id)?.name ?? `bridge ${id}`)
    : of === 'tag'
      ? `tag ${id}`
      : lists.placeName(of, id)

const close = async () => {
  await attempt(async () => {
    await callApi(closeCase, {}, { timeoutMs: 120_000 })
    await lists.refresh()
    notices.tell('The case is closed. This copy is empty.')
    await navigateTo('/site')
  })
  asking.value = false
}
</script>

<template>
  <div class="page">
    <SiteHead>
      <template v-if="shown && session.can('administer')">
        <span v-if="asking">Everything of it goes, and cannot be put back.</span>
        <v-btn v-if="asking" @click="asking = false">Keep it</v-btn>
        <BusyButton v-if="asking" :busy="busy" variant="flat" @click="close">Empty this copy</BusyButton>
        <v-btn v-else @click="asking = true">Close the case …</v-btn>
      </template>
    </SiteHead>
    <EmptyState
      v-if="refused?.why.code === 'case.none'"
      title="No case is open here"
      text="A handover pack of another site is opened in a copy that has nothing of its own; what it tells besides is shown here then."
    >
      <v-btn to="/site">Site</v-btn>
    </EmptyState>
    <FaultNote v-else-if="refused" :fault="refused.why" />
    <div v-if="shown" class="columns">
      <div class="stack">
        <section v-if="stopped.length" class="sheet part">
          <h2 class="sheet-title">Stood still when the pack was made</h2>
          <ul class="plain">
            <li v-for="check in stopped" :key="`${check.of} ${check.id}`">
              <NuxtLink :to="`/${folders[check.of]}/${check.id}/path`">{{ nameOf(check.of, check.id) }}</NuxtLink>
              <span class="quiet">{{ momentText(check.at) }}</span>
            </li>
          </ul>
        </section>
        <section class="sheet part">
          <h2 class="sheet-title">Where its parts are shown</h2>
          <ul class="plain">
            <li v-for="place in places" :key="place.to">
              <NuxtLink :to="place.to">{{ place.title }}</NuxtLink>
              <span class="quiet">{{ place.what }}</span>
            </li>
          </ul>
        </section>
        <section v-if="shown.left.length" class="sheet part">
          <h2 class="sheet-title is-late">{{ counted(shown.left.length, 'thing') }} could not be taken out of the pack</h2>
          <p v-for="one in shown.left" :key="one.path" class="told">
            <code>{{ one.path }}</code> {{ one.message }}
          </p>
        </section>
        <section class="sheet part">
          <h2 class="sheet-title">The last changes there</h2>
          <p v-if="shown.revisions.length === 0" class="quiet">None are told.</p>
          <table v-else class="changes">
            <tbody>
              <tr v-for="one in shown.revisions" :key="one.number">
                <td class="number">{{ one.number }}</td>
                <td class="quiet nowrap">{{ momentText(Date.parse(one.at)) }}</td>
                <td>{{ one.what }}</td>
                <td class="quiet">{{ one.who }}</td>
              </tr>
            </tbody>
          </table>
        </section>
      </div>
      <div class="stack">
        <section class="sheet part">
          <h2 class="sheet-title">The pack</h2>
          <dl>
            <template v-for="[what, said] in facts" :key="what">
              <dt>{{ what }}</dt>
              <dd>{{ said }}</dd>
            </template>
          </dl>
        </section>
        <section class="sheet part">
          <h2 class="sheet-title">Its machine</h2>
          <dl>
            <template v-for="[what, said] in machine" :key="what">
              <dt>{{ what }}</dt>
              <dd class="lines mono">{{ said }}</dd>
            </template>
          </dl>
        </section>
      </div>
    </div>
  </div>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
  gap: 14px;
  align-items: start;
}
.stack {
  display: grid;
  gap: 14px;
}
.part {
  padding: 12px 14px;
}
.plain {
  list-style: none;
  padding: 0;
  margin: 0;
}
.plain li {
  display: flex;
  gap: 10px;
  padding: 2px 0;
}
.told {
  margin: 0 0 4px;
  font-size: 12px;
}
dl {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 3px 12px;
  margin: 0;
}
dt {
  color: var(--quiet);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.lines {
  white-space: pre-wrap;
  font-size: 12px;
}
.changes {
  width: 100%;
  border-collapse: collapse;
}
.changes td {
  padding: 3px 8px 3px 0;
  border-top: 1px solid var(--line-soft);
  vertical-align: top;
}
.nowrap {
  white-space: nowrap;
}
</style>
