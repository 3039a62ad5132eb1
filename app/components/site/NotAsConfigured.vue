<script setup lang="ts">
import { tryAgain } from '#shared/api/site'
import { counted } from '#core/text/counted'
import type { NotInForce } from '#shared/status'
import { placeOfThing, subjectWord } from '~/subjects'

/** What is not as it is configured: why, what holds instead, and the way to try again. */
const live = useLive()
const session = useSession()
const notices = useNotices()
const busy = ref(false)
const opened = ref<string | null>(null)
const things = computed(() => live.status?.notInForce ?? [])
const more = computed(() => (live.status?.notInForceCount ?? 0) - things.value.length)

const toggle = (thing: NotInForce) => (opened.value = opened.value === keyOf(thing) ? null : keyOf(thing))
const keyOf = ({ subject, id }: NotInForce) => `${subject} ${id}`
const instead = ({ inForce }: NotInForce) => (inForce === null ? 'nothing of it holds' : `as of revision ${inForce}`)

const askAgain = async () => {
  busy.value = true
  try {
    const { notInForce } = await callApi(tryAgain, {}, { timeoutMs: 60_000 })
    if (notInForce.length === 0) notices.tell('Everything is as configured now.')
    else notices.tellProblem(`Still not as configured: ${notInForce.map(({ name }) => name).join(', ')}.`)
  } catch (error) {
    notices.tellProblem(asRefused(error).why.what)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <section v-if="things.length > 0" class="sheet part" aria-label="Not as configured">
    <div class="head">
      <h2 class="sheet-title">Not as configured <span class="quiet light">saved, and not in force</span></h2>
      <BusyButton v-if="session.can('configure')" height="26" :busy="busy" @click="askAgain">Try again</BusyButton>
    </div>
    <table class="rows">
      <tbody>
        <template v-for="thing in things" :key="keyOf(thing)">
          <tr class="opens" @click="toggle(thing)">
            <td class="glyph"><PipeGlyph :flow="thing.inForce === null ? 'broken' : 'late'" :width="34" /></td>
            <td class="kind quiet">{{ subjectWord(thing.subject) }}</td>
            <td class="name">
              <NuxtLink :to="placeOfThing(thing)" @click.stop>{{ thing.name || `number ${thing.id}` }}</NuxtLink>
            </td>
            <td>
              <button type="button" :aria-expanded="opened === keyOf(thing)" @click.stop="toggle(thing)">{{ thing.fault.what }}</button>
            </td>
            <td class="quiet instead">{{ instead(thing) }}{{ thing.node ? ` · on ${thing.node}` : '' }}</td>
          </tr>
          <tr v-if="opened === keyOf(thing)">
            <td colspan="5"><FaultNote :fault="thing.fault" mild /></td>
          </tr>
        </template>
      </tbody>
    </table>
    <p v-if="more > 0" class="quiet">and {{ counted(more, 'more thing') }}</p>
  </section>
</template>

<style scoped>
.part {
  padding: 12px 16px;
  margin-bottom: 14px;
  border-left: 4px solid var(--copper);
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
.light {
  font-weight: 400;
}
.glyph {
  width: 44px;
}
.kind {
  width: 76px;
}
.name {
  max-width: 260px;
  overflow-wrap: anywhere;
}
.instead {
  white-space: nowrap;
}
</style>
