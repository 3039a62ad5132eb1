<script setup lang="ts">
import { layBlockOut } from '#shared/api/bench'
import { makeTags } from '#shared/api/tags'
import { protocolOf } from '#core/links/registry'
import { wordOrderText, type WordOrder } from '#core/modbus/layout'
import { gainTo, parseFaceplate } from '#core/readings/faceplate'
import { grouped } from '#core/lists/grouped'
import { counted } from '#core/text/counted'
import { mostInBlock, type BlockField, type BlockLayout } from '#shared/bench'
import { plainValue, type TagDraft } from '#shared/tags'
import { linkForms } from '~/links/registry'

/** Registers of which nobody knows what they hold: watched for a while, and laid out as they are explained best. */
const lookEveryMs = 1000
const sureSeconds = 10
/** Below this the next best order of words is as good. */
const sureLead = 3

const lists = useLists()
const notices = useNotices()
const route = useRoute()
await lists.whenLoaded()
const session = useSession()
if (!session.can('configure')) await navigateTo('/bench')
const able = computed(() => lists.links.filter(({ kind }) => protocolOf(kind).words !== null))
const linkChoices = computed(() => able.value.map(({ id, name, on }) => ({ value: id, title: name, subtitle: on ? '' : 'switched off' })))
const linkId = ref(Number(route.query.link) || able.value[0]?.id || 0)
const address = ref(String(route.query.address ?? ''))
const count = ref<number | null>(24)
const link = computed(() => able.value.find(({ id }) => id === linkId.value) ?? null)
const facts = computed(() => (link.value ? protocolOf(link.value.kind).describe(address.value, link.value.settings) : null))
const addressProblem = computed(() => (address.value !== '' && facts.value && !facts.value.ok ? facts.value.problem : ''))
const countProblem = computed(() =>
  Number.isInteger(count.value) && count.value! >= 1 && count.value! <= mostInBlock ? '' : `1 to ${mostInBlock} registers.`,
)
const ready = computed(() => facts.value?.ok === true && countProblem.value === '')

const watched = shallowRef<{ linkId: number; address: string; count: number } | null>(null)
const layout = shallowRef<BlockLayout | null>(null)
const refused = shallowRef<Refused | null>(null)
const open = ref<number | null>(null)
const paused = ref(false)
const look = async () => {
  const asked = watched.value
  if (!asked || paused.value) return
  try {
    const found = await callApi(layBlockOut, { body: { ...asked, open: open.value } })
    if (watched.value !== asked) return
    layout.value = found
    refused.value = null
  } catch (error) {
    refused.value = asRefused(error)
  }
}
useRepeated(look, lookEveryMs)
const start = () => {
  if (!ready.value) return
  layout.value = null
  open.value = null
  chosen.clear()
  paused.value = false
  watched.value = { linkId: linkId.value, address: facts.value?.ok ? facts.value.canonical : address.value, count: count.value! }
  void look()
}
const openRow = (field: BlockField) => {
  open.value = open.value === field.at ? null : field.at
  void look()
}

const faceplate = ref('')
const typed = computed(() => parseFaceplate(faceplate.value))
const gainOf = (field: BlockField) => (typed.value && field.value !== null ? gainTo(field.value, typed.value) : null)
const matches = computed(() => layout.value?.fields.filter((field) => gainOf(field) !== null) ?? [])
const faceplateMessage = computed(() => {
  if (faceplate.value.trim() === '' || !layout.value) return ''
  if (!typed.value) return 'A number, as it stands on the faceplate.'
  return matches.value.length === 0 ? 'None of these fields has it.' : ''
})

const state = computed(() => {
  if (!layout.value || layout.value.moments === 0) return 'Waiting for the first answer.'
  const { seconds, changing } = layout.value
  const seen = `Watched for ${Math.round(seconds)} s; ${counted(changing, 'register')} changed.`
  return seconds < sureSeconds ? `${seen} Ten seconds make it surer.` : seen
})
/** Registers that give nothing, by what is wrong with them. */
const gaps = computed(() =>
  [...grouped(layout.value?.gaps ?? [], ({ problem }) => problem)].map(([problem, all]) => {
    const where = all.map((gap) => `${gap.address}${gap.registers > 1 ? ` and ${gap.registers - 1} more` : ''}`)
    return `${where.slice(0, 6).join(', ')}${where.length > 6 ? ' …' : ''}: ${problem}`
  }),
)
const orderText = computed(() => {
  if (!layout.value || layout.value.fields.length === 0) return ''
  const { order, lead } = layout.value
  return lead < sureLead ? 'Nothing seen so far tells the order of words.' : `Words lie ${wordOrderText[order as WordOrder]} (${order}).`
})

const chosen = reactive(new Set<number>())
const takeable = computed(() => layout.value?.fields.filter(({ takes }) => takes !== null) ?? [])
const toggle = (at: number) => (chosen.has(at) ? chosen.delete(at) : chosen.add(at))
const chooseAll = () => {
  const all = takeable.value.filter(({ label }) => label !== 'not used')
  if (all.every(({ at }) => chosen.has(at))) chosen.clear()
  else for (const { at } of all) chosen.add(at)
}
const folder = ref('')
const making = ref(false)
const draftsOf = (fields: readonly BlockField[]): TagDraft[] =>
  fields.map(({ address: at, takes }) => ({
    ...{ path: `${folder.value.trim().replace(/\/+$/, '')}/${at.replace(/[^\w]+/g, '_')}`, access: 'read', ...plainValue },
    type: takes!.type,
    source: { kind: 'point', linkId: watched.value!.linkId, address: at, options: lean(takes!.options), interval: null },
  }))
const lean = (options: Record<string, unknown>) =>
  link.value ? protocolOf(link.value.kind).leanOptions(options, link.value.settings) : options
const make = async () => {
  making.value = true
  try {
    const fields = takeable.value.filter(({ at }) => chosen.has(at))
    const made = await callApi(makeTags, { body: { tags: draftsOf(fields) } })
    notices.tell(`${counted(made.length, 'tag')} made.`, made[0]?.revision)
    await navigateTo(`/tags?below=${encodeURIComponent(folder.value.trim().replace(/\/+$/, ''))}`)
  } catch (error) {
    refused.value = asRefused(error)
    paused.value = true
  } finally {
    making.value = false
  }
}
</script>

<template>
  <div class="page fills">
    <div class="page-head">
      <NuxtLink to="/bench" class="trail">Bench ›</NuxtLink>
      <h1>Unknown registers</h1>
      <span class="fill" />
      <template v-if="watched">
        <v-btn v-if="paused" variant="flat" @click="paused = false">Go on</v-btn>
        <v-btn v-else @click="paused = true">Hold still</v-btn>
      </template>
    </div>
    <EmptyState
      v-if="able.length === 0"
      title="No link has registers"
      text="A device that answers in registers does not say what lies in them. With a link to one, this page watches a block and proposes what it holds."
    >
      <v-btn variant="flat" to="/links/new">New link</v-btn>
    </EmptyState>
    <template v-else>
      <form class="sheet form" aria-label="The block" @submit.prevent="start">
        <ChoiceField v-model="linkId" label="Link" :choices="linkChoices" />
        <TextField
          v-model="address"
          label="First register"
          mono
          autofocus
          :placeholder="link ? linkForms[link.kind].addressExample : ''"
          :message="addressProblem"
        />
        <NumberField v-model="count" label="How many registers" :message="countProblem" />
        <v-btn type="submit" class="send" variant="flat" :disabled="!ready">{{ watched ? 'Watch anew' : 'Watch' }}</v-btn>
        <TextField v-if="layout" v-model="faceplate" label="What a faceplate shows" mono placeholder="70.3" :message="faceplateMessage" />
      </form>
      <FaultNote v-if="refused" :fault="refused.why" class="gap" />
      <p v-if="!watched" class="quiet hint">
        The registers are read over and over; nothing is written, and no tag is made. What moves, how it moves, and what the values would be
        tells where one value ends and the next begins.
      </p>
      <template v-else>
        <p class="state" role="status">
          {{ paused ? 'Held still.' : state }} {{ orderText }}
          <span v-for="gap in gaps" :key="gap" class="is-late">{{ gap }}</span>
        </p>
        <section v-if="layout && layout.fields.length" class="sheet list">
          <table class="rows" aria-label="What probably lies there">
            <thead>
              <tr>
                <th class="tick-cell">
                  <input type="checkbox" class="tick" aria-label="Choose all" :checked="chosen.size > 0" @change="chooseAll" />
                </th>
                <th>Address</th>
                <th class="number">Registers</th>
                <th>Probably</th>
                <th class="number">Now</th>
                <th>What speaks for it, and against it</th>
              </tr>
            </thead>
            <tbody>
              <template v-for="field in layout.fields" :key="field.at">
                <tr
                  class="opens"
                  :class="{ chosen: open === field.at, matched: gainOf(field) !== null }"
                  tabindex="0"
                  :aria-expanded="open === field.at"
                  @click="openRow(field)"
                  @keydown.enter.self="openRow(field)"
                >
                  <td @click.stop>
                    <input
                      v-if="field.takes"
                      type="checkbox"
                      class="tick"
                      :aria-label="`Choose ${field.address}`"
                      :checked="chosen.has(field.at)"
                      @change="toggle(field.at)"
                    />
                  </td>
                  <td class="mono">{{ field.address }}</td>
                  <td class="number">{{ field.registers }}</td>
                  <td class="mono" :class="{ quiet: field.label === 'not used' }">{{ field.label }}</td>
                  <td class="number strong">{{ field.label === 'not used' ? '' : field.text }}</td>
                  <td>
                    <b v-if="gainOf(field) !== null" class="is-flowing"
                      >as on the faceplate<template v-if="gainOf(field) !== 1">, with a gain of {{ gainOf(field) }}</template> ·
                    </b>
                    <template v-for="(reason, i) in field.reasons" :key="reason.text">
                      <span :class="reason.speaks === 'for' ? 'quiet' : 'is-late'">{{ i > 0 ? ' · ' : '' }}{{ reason.text }}</span>
                    </template>
                  </td>
                </tr>
                <tr v-if="open === field.at && layout.readings.length">
                  <td />
                  <td colspan="5" class="others">
                    <ReadingsTable no-faceplate :readings="layout.readings" :from="`from ${field.address} on`" />
                    <NuxtLink :to="`/bench?link=${watched.linkId}&address=${encodeURIComponent(field.address)}`"
                      >Try it on the bench</NuxtLink
                    >
                  </td>
                </tr>
              </template>
            </tbody>
          </table>
        </section>
        <form v-if="layout && layout.fields.length" class="make" @submit.prevent="make">
          <TextField v-model="folder" label="Below the folder" mono placeholder="berth/4/unknown" class="folder" />
          <BusyButton type="submit" class="send" variant="flat" :busy="making" :disabled="chosen.size === 0 || folder.trim() === ''"
            >Make {{ counted(chosen.size, 'tag') }}</BusyButton
          >
        </form>
      </template>
    </template>
  </div>
</template>

<style scoped>
.form,
.make {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: flex-start;
}
.form {
  padding: 12px 14px;
  margin-bottom: 10px;
}
.form > * {
  flex: 0 1 210px;
}
.send {
  flex: none !important;
  margin-top: 21px;
}
.make {
  margin-top: 10px;
}
.folder {
  width: 320px;
}
.gap {
  margin-bottom: 10px;
}
.hint {
  max-width: 80ch;
  padding: 4px;
}
.state {
  margin: 0 0 10px;
}
.state span {
  display: block;
}
.list {
  flex: 1;
  min-height: 0;
  overflow: auto;
}
.tick-cell {
  width: 36px;
}
.strong {
  font-weight: 600;
  overflow-wrap: anywhere;
}
.chosen,
.matched {
  background: var(--tint);
}
.others {
  max-width: 620px;
}
</style>
