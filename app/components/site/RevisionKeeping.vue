<script setup lang="ts">
import { keepRevisions, showSite } from '#shared/api/site'

/** How long revisions are kept. */
const session = useSession()
const notices = useNotices()
const emit = defineEmits<{ forgot: [] }>()
const days = ref<number | null>(null)
const most = ref<number | null>(null)
const kept = shallowRef<{ days: number | null; most: number | null }>({ days: null, most: null })
const refused = shallowRef<Refused | null>(null)

const show = (keeping: { days: number | null; most: number | null }) => {
  kept.value = keeping
  days.value = keeping.days
  most.value = keeping.most
}
try {
  show((await callApi(showSite)).keeping)
} catch (error) {
  refused.value = asRefused(error)
}
const isChanged = computed(() => days.value !== kept.value.days || most.value !== kept.value.most)
const message = (field: string) => refused.value?.fields.find(({ path }) => path === field)?.message ?? ''
const save = async () => {
  try {
    const { forgotten, ...keeping } = await callApi(keepRevisions, { body: { days: days.value, most: most.value } })
    show(keeping)
    refused.value = null
    notices.tell(forgotten > 0 ? `Revisions up to ${forgotten} are forgotten.` : 'All revisions are still kept.')
    emit('forgot')
  } catch (error) {
    refused.value = asRefused(error)
  }
}
</script>

<template>
  <form class="sheet part" @submit.prevent="save">
    <h2 class="sheet-title">Keep revisions</h2>
    <div class="two">
      <NumberField v-model="days" label="For so long" unit="days" hint="empty: for ever" :message="message('days')" />
      <NumberField v-model="most" label="At most" unit="" hint="empty: all" :message="message('most')" />
    </div>
    <FaultNote v-if="refused && refused.fields.length === 0" :fault="refused.why" />
    <v-btn type="submit" class="save" :disabled="!isChanged || !session.can('administer')">Keep so</v-btn>
  </form>
</template>

<style scoped>
.part {
  padding: 12px 16px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
  margin-top: 6px;
}
.save {
  margin-top: 10px;
}
</style>
