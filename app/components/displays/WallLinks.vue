<script setup lang="ts">
import { momentText } from '#core/text/moment'
import { listWallLinks, makeWallLink, takeWallLinkBack } from '#shared/api/displays'
import type { Display, WallLink } from '#shared/displays'

/** By which wall screens show a display. */
const props = defineProps<{ display: Display; pieces: readonly string[] }>()
defineEmits<{ close: [] }>()
const notices = useNotices()
const links = shallowRef<WallLink[]>([])
const { busy, refused, attempt } = useAttempt()
const { copied, copy } = useCopy()
const told = shallowRef<{ name: string; address: string } | null>(null)
const blank = () => ({ name: '', equipment: '', turns: false, turnSeconds: 20 as number | null, dark: false, days: 365 as number | null })
const draft = reactive(blank())

const load = () =>
  attempt(async () => {
    const { items } = await callApi(listWallLinks, { query: { limit: 500 } })
    links.value = items.filter(({ displayId }) => displayId === props.display.id)
  })
watch(() => props.display.id, load, { immediate: true })

const make = () =>
  attempt(async () => {
    const { name, equipment, turns, turnSeconds, dark, days } = draft
    const turning = turns && equipment === '' && props.pieces.length > 1 ? turnSeconds : null
    const body = { displayId: props.display.id, name, equipment, turnSeconds: turning, dark, days: days ?? Number.NaN }
    const { token, shown } = await callApi(makeWallLink, { body })
    links.value = [...links.value, shown]
    told.value = { name: shown.name, address: `${location.origin}/wall#${token}` }
    Object.assign(draft, blank())
  })
const asking = shallowRef<WallLink | null>(null)
const isAsking = computed({ get: () => asking.value !== null, set: (on) => !on && (asking.value = null) })
const end = () =>
  attempt(async () => {
    const { id, name } = asking.value!
    asking.value = null
    await callApi(takeWallLinkBack, { params: { id } })
    links.value = links.value.filter((one) => one.id !== id)
    notices.tell(`The wall screen “${name}” goes dark.`)
  })
const message = (field: string) => refused.value?.fields.find(({ path }) => path === field)?.message ?? ''
const pieceChoices = computed(() => [
  { value: '', title: 'all of them, in turn or by choice' },
  ...props.pieces.map((value) => ({ value, title: value })),
])
const isOver = ({ expiresAt }: WallLink) => Date.parse(expiresAt) < Date.now()
</script>

<template>
  <SidePanel label="Wall screens" above="By an address of its own, nobody signed in" name="Wall screens" @close="$emit('close')">
    <p>Whoever has such an address sees this display and nothing else, and changes nothing, until the link ends or is taken back.</p>
    <section v-if="told" class="told">
      <h3 class="sheet-title">The address for “{{ told.name }}”</h3>
      <p class="mono address">{{ told.address }}</p>
      <p class="quiet">It is shown this once.</p>
      <div class="buttons">
        <v-btn height="26" @click="copy(told.address)">{{ copied === told.address ? 'Copied' : 'Copy' }}</v-btn>
        <v-btn height="26" :href="told.address" target="_blank">Open it</v-btn>
      </div>
    </section>
    <ul v-if="links.length" class="links" aria-label="Wall screens">
      <li v-for="link in links" :key="link.id">
        <strong>{{ link.name }}</strong>
        <span class="quiet">{{ link.equipment || (pieces.length ? 'all equipment' : '') }}</span>
        <span :class="isOver(link) ? 'is-broken' : 'quiet'"
          >{{ isOver(link) ? 'ended' : 'until' }} {{ momentText(link.expiresAt).slice(0, 10) }}</span
        >
        <span class="quiet">{{ link.usedAt ? `last seen ${momentText(link.usedAt)}` : 'never used' }}</span>
        <Allowed role="configure"><button type="button" class="end" @click="asking = link">End it …</button></Allowed>
      </li>
    </ul>
    <p v-else class="quiet">There is none yet.</p>
    <Allowed role="configure">
      <form class="new" @submit.prevent="make">
        <h3 class="sheet-title">A new wall screen</h3>
        <TextField v-model="draft.name" label="Name" placeholder="Control room, left" :message="message('name')" />
        <ChoiceField v-if="pieces.length" v-model="draft.equipment" label="For" :choices="pieceChoices" :message="message('equipment')" />
        <template v-if="pieces.length > 1 && draft.equipment === ''">
          <v-checkbox v-model="draft.turns" label="Goes on to the next by itself" />
          <NumberField v-if="draft.turns" v-model="draft.turnSeconds" label="After" unit="s" :message="message('turnSeconds')" />
        </template>
        <NumberField v-model="draft.days" label="Valid for" unit="days" :message="message('days')" />
        <v-checkbox v-model="draft.dark" label="Dark" />
        <FaultNote v-if="refused && refused.fields.length === 0" :fault="refused.why" />
        <BusyButton type="submit" variant="flat" :busy="busy" :disabled="draft.name.trim() === ''">Make the address</BusyButton>
      </form>
    </Allowed>
    <AskDialog v-model="isAsking" :title="`End the wall screen “${asking?.name}”?`" yes="End it" no="Keep" grave @yes="end">
      <p>Its address shows nothing any more.</p>
    </AskDialog>
  </SidePanel>
</template>

<style scoped>
.links {
  list-style: none;
  margin: 12px 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 2px 10px;
  padding: 8px 0;
  border-top: 1px solid var(--line-soft);
}
.end {
  color: var(--break);
  justify-self: end;
}
.new {
  display: flex;
  flex-direction: column;
  align-items: stretch;
  gap: 10px;
  margin-top: 18px;
}
.told {
  border-left: 3px solid var(--copper);
  padding: 2px 0 2px 12px;
  margin: 12px 0;
}
.address {
  overflow-wrap: anywhere;
  user-select: all;
}
.buttons {
  display: flex;
  gap: 6px;
}
</style>
