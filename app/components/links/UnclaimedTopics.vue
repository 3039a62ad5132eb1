<script setup lang="ts">
import { counted } from '#core/text/counted'
import { listUnclaimed } from '#shared/api/links'
import type { AnswerOf } from '#shared/api/operation'

/** Messages that nobody claims: what comes, in which form, how often, and the last of it. */
const props = defineProps<{ linkId: number }>()
const everyMs = 2000
const mostShown = 100
const page = shallowRef<AnswerOf<typeof listUnclaimed> | null>(null)
const refused = shallowRef<Refused | null>(null)

const ask = async () => {
  try {
    page.value = await callApi(listUnclaimed, { params: { id: props.linkId }, query: { limit: mostShown } })
    refused.value = null
  } catch (error) {
    refused.value = asRefused(error)
  }
}
useRepeated(ask, everyMs)

const more = computed(() => (page.value ? page.value.total - page.value.items.length : 0))
</script>

<template>
  <section class="sheet part" aria-label="Messages that nobody claims">
    <h2 class="sheet-title">Messages that nobody claims</h2>
    <FaultNote v-if="refused" :fault="refused.why" mild />
    <p v-else-if="page?.total === 0" class="quiet">None came so far; every topic that comes is some tag’s.</p>
    <table v-else-if="page" class="rows">
      <thead>
        <tr>
          <th>Topic</th>
          <th>Form</th>
          <th class="number">Per second</th>
          <th>Last</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="topic in page.items" :key="topic.topic">
          <td class="mono wrap">{{ topic.topic }}</td>
          <td class="quiet">{{ topic.form }}</td>
          <td class="number">{{ topic.perSecond < 0.05 ? 'rarely' : topic.perSecond.toFixed(1) }}</td>
          <td class="mono wrap" :title="counted(topic.bytes, 'byte')">{{ topic.last }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="more > 0" class="quiet">and {{ counted(more, 'more topic') }}</p>
    <p v-if="page && page.gaveWay > 0" class="quiet">{{ counted(page.gaveWay, 'topic') }} made room for others since the start.</p>
  </section>
</template>

<style scoped>
.part {
  padding: 14px 18px;
  margin-top: 12px;
}
.wrap {
  overflow-wrap: anywhere;
}
</style>
