<script setup lang="ts">
import { parseAddress } from '#core/bacnet/address'
import { isCommandable } from '#core/bacnet/point'
import { releaseTag, tagPriorities } from '#shared/api/tags'
import type { Priorities } from '#shared/links/priorities'
import type { Tag } from '#shared/tags'

/** Who holds a value that goes by priorities, level by level, and giving back what this site holds. */
const props = defineProps<{ tag: Tag }>()
const held = ref<Priorities | null>(null)
const { busy, refused, attempt } = useAttempt()

const address = computed(() => (props.tag.source.kind === 'point' ? props.tag.source.address : ''))
const applies = computed(() => {
  const parsed = parseAddress(address.value)
  return parsed.ok && isCommandable(parsed.address)
})
const shown = computed(() => held.value?.levels.filter(({ text, ours }) => text !== null || ours) ?? [])
const isHeldByUs = computed(() => held.value?.levels.some(({ ours, text }) => ours && text !== null) ?? false)

/** Another tag may have been chosen by the time that the answer comes. */
const look = async () => {
  const { id } = props.tag
  busy.value = true
  refused.value = null
  try {
    const answer = await callApi(tagPriorities, { params: { id } })
    if (props.tag.id === id) held.value = answer
  } catch (error) {
    if (props.tag.id === id) refused.value = asRefused(error)
  } finally {
    busy.value = false
  }
}
const release = () =>
  attempt(async () => {
    await callApi(releaseTag, { params: { id: props.tag.id } })
    await look()
  })
watch(
  () => props.tag.id,
  () => {
    held.value = null
    refused.value = null
    if (applies.value) void look()
  },
  { immediate: true },
)
</script>

<template>
  <section v-if="applies" class="priorities" aria-label="Priorities">
    <div class="head">
      <h3 class="sheet-title">Who holds it</h3>
      <BusyButton height="26" :busy="busy" @click="look">Look again</BusyButton>
      <Allowed role="operate">
        <v-btn v-if="tag.access === 'readwrite'" height="26" :disabled="!isHeldByUs || busy" @click="release">Give back ours</v-btn>
      </Allowed>
    </div>
    <FaultNote v-if="refused" :fault="refused.why" mild />
    <table v-if="held" class="rows">
      <thead>
        <tr>
          <th class="number">Level</th>
          <th>Holds</th>
          <th>Kept for</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="level in shown" :key="level.level" :class="{ holds: held.holds === level.level }">
          <td class="number">{{ level.level }}</td>
          <td class="mono">{{ level.text ?? '—' }}</td>
          <td class="quiet">
            {{
              [level.ours ? 'this site writes here' : '', level.use, held.holds === level.level ? 'in force' : '']
                .filter(Boolean)
                .join(', ')
            }}
          </td>
        </tr>
        <tr :class="{ holds: held.holds === null }">
          <td class="number">—</td>
          <td class="mono">{{ held.usual ?? '?' }}</td>
          <td class="quiet">where nobody holds it{{ held.holds === null ? ', in force' : '' }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.priorities {
  margin: 4px 0 14px;
}
.head {
  display: flex;
  gap: 8px;
  align-items: center;
}
.head h3 {
  flex: 1;
}
.rows {
  width: 100%;
  margin-top: 6px;
}
.number {
  text-align: right;
  width: 52px;
}
.holds td {
  font-weight: 600;
}
</style>
