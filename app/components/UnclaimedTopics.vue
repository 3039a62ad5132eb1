<script setup lang="ts">
import { counted } from '#core/text/counted'
import { listUnclaimed } from '#shared/api/links'
import { listUnclaimedAtOutlet } from '#shared/api/outlets'
import type { AnswerOf } from '#shared/api/operation'

/** Messages that nobody claims, of a link or of an outlet: what comes, in which form, how often, the last of it; and ways to take it. */
const props = defineProps<{ of: 'link' | 'outlet'; id: number }>()
const everyMs = 2000
const mostShown = 100
const session = useSession()
const page = shallowRef<AnswerOf<typeof listUnclaimed> | null>(null)
const refused = shallowRef<Refused | null>(null)

const ask = async () => {
  const asked = { params: { id: props.id }, query: { limit: mostShown } }
  try {
    page.value = props.of === 'link' ? await callApi(listUnclaimed, asked) : await callApi(listUnclaimedAtOutlet, asked)
    refused.value = null
  } catch (error) {
    refused.value = asRefused(error)
  }
}
useRepeated(ask, everyMs)

const more = computed(() => (page.value ? page.value.total - page.value.items.length : 0))
const placeQuery = (topic: string) => `topic=${encodeURIComponent(topic)}&${props.of}=${props.id}`
</script>

<template>
  <section class="sheet part" :class="{ apart: of === 'link' }" aria-label="Messages that nobody claims">
    <h2 class="sheet-title">Messages that nobody claims</h2>
    <FaultNote v-if="refused" :fault="refused.why" mild />
    <p v-else-if="page?.total === 0" class="quiet">
      None came so far.
      <template v-if="of === 'link'">
        Only what tags and bridges want is listened to; <NuxtLink :to="`/tags/take?link=${id}`">listen around</NuxtLink> to see what else
        there is.
      </template>
    </p>
    <table v-else-if="page" class="rows">
      <thead>
        <tr>
          <th>Topic</th>
          <th>Form</th>
          <th class="number">Per second</th>
          <th>Last</th>
          <th><span class="d-sr-only">Actions</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="topic in page.items" :key="topic.topic">
          <td class="mono wrap">{{ topic.topic }}</td>
          <td class="quiet">{{ topic.form }}</td>
          <td class="number">{{ topic.perSecond < 0.05 ? 'rarely' : topic.perSecond.toFixed(1) }}</td>
          <td class="mono wrap" :title="counted(topic.bytes, 'byte')">{{ topic.last }}</td>
          <td class="tight">
            <template v-if="session.can('configure')">
              <v-btn v-if="of === 'link'" height="24" :to="`/tags/take?link=${id}&topic=${encodeURIComponent(topic.topic)}`"
                >Take as tags</v-btn
              >
              <v-btn height="24" :to="`/bridges/new?${placeQuery(topic.topic)}`">Bridge it</v-btn>
            </template>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="more > 0" class="quiet">and {{ counted(more, 'more topic') }}</p>
    <p v-if="page && page.gaveWay > 0" class="quiet">{{ counted(page.gaveWay, 'topic') }} made room for others since the start.</p>
  </section>
</template>

<style scoped>
/* beside others that bring their own distance */
.apart {
  margin-top: 12px;
}
.part {
  padding: 14px 18px;
}
.wrap {
  overflow-wrap: anywhere;
}
.tight {
  white-space: nowrap;
}
.tight .v-btn {
  margin-left: 6px;
}
</style>
