<script setup lang="ts">
import { listRefused, mendRefused, settleRefused } from '#shared/api/bridges'
import { counted } from '#core/text/counted'
import type { RefusedRecord } from '#shared/bridges/preview'

/** What receivers refused for good: seen, set right, sent once more, or dropped. */
const props = defineProps<{ bridgeId: number; news: string }>()
const notices = useNotices()
const session = useSession()
const records = shallowRef<RefusedRecord[]>([])
const total = ref(0)
const most = 50

let turn = 0
const look = async () => {
  const mine = ++turn
  const found = await callApi(listRefused, { params: { id: props.bridgeId }, query: { limit: most } }).catch(() => null)
  if (found && mine === turn) [records.value, total.value] = [found.items, found.total]
}
onMounted(look)
watch(() => props.news, look)

const settle = async (keys: string[], then: 'send' | 'drop') => {
  try {
    const { settled, unfit } = await callApi(settleRefused, { params: { id: props.bridgeId }, body: { keys, then } })
    const stays = unfit > 0 ? ` ${counted(unfit, 'record')} stay: they were made for other fields, and can only be dropped.` : ''
    notices.tell(`${counted(settled, 'record')} ${then === 'send' ? 'sent again' : 'dropped'}.${stays}`)
    await look()
  } catch (error) {
    notices.tellProblem(asRefused(error).why.what)
  }
}
const all = computed(() => records.value.map(({ key }) => key))

/** The record that is being set right, with what is typed for each of its fields. */
const mending = ref<{ key: string; texts: string[] } | null>(null)
const begin = ({ key, fields }: RefusedRecord) => (mending.value = { key, texts: fields.map(({ text }) => text) })
const sendMended = async (record: RefusedRecord) => {
  const { key, texts } = mending.value!
  const values = record.fields.flatMap(({ into, text }, i) =>
    texts[i] === text ? [] : [{ into, text: texts[i] === '' ? null : texts[i]! }],
  )
  try {
    await callApi(mendRefused, { params: { id: props.bridgeId }, body: { key, values } })
    mending.value = null
    notices.tell('The record was set right and sent.')
    await look()
  } catch (error) {
    notices.tellProblem(asRefused(error).why.what)
  }
}
</script>

<template>
  <section v-if="total > 0" class="block">
    <div class="head">
      <h2 class="sheet-title">Laid aside: {{ counted(total, 'record') }} that the receiver refused</h2>
      <span class="fill" />
      <template v-if="session.can('operate')">
        <v-btn @click="settle(all, 'send')">Send {{ records.length === total ? 'all' : `these ${records.length}` }} again</v-btn>
        <v-btn color="break" @click="settle(all, 'drop')">Drop {{ records.length === total ? 'all' : 'these' }}</v-btn>
      </template>
    </div>
    <div class="sheet scroll">
      <table class="rows" aria-label="Refused records">
        <tbody>
          <template v-for="record in records" :key="record.key">
            <tr>
              <td class="mono">{{ new Date(record.madeAt).toISOString().slice(0, 19).replace('T', ' ') }}</td>
              <td class="mono">{{ record.fields.map(({ into, text }) => `${into} ${text || 'null'}`).join(', ') }}</td>
              <td class="is-broken">{{ record.fault.what }}</td>
              <td v-if="session.can('operate')" class="act">
                <button type="button" class="link" @click="begin(record)">Set right …</button>
                <button type="button" class="link" @click="settle([record.key], 'send')">Send again</button>
                <button type="button" class="link" @click="settle([record.key], 'drop')">Drop</button>
              </td>
            </tr>
            <tr v-if="mending?.key === record.key">
              <td colspan="4">
                <form class="mend" @submit.prevent="sendMended(record)">
                  <TextField
                    v-for="(field, i) in record.fields"
                    :key="field.into"
                    v-model="mending.texts[i]!"
                    :label="field.into"
                    mono
                    placeholder="null"
                  />
                  <div class="buttons">
                    <v-btn type="submit" variant="flat">Send it so</v-btn>
                    <v-btn @click="mending = null">Leave it</v-btn>
                  </div>
                </form>
              </td>
            </tr>
          </template>
        </tbody>
      </table>
    </div>
  </section>
</template>

<style scoped>
.block {
  margin-top: 18px;
}
.head {
  display: flex;
  align-items: center;
  gap: 10px;
  margin-bottom: 6px;
}
.fill {
  flex: 1;
}
.scroll {
  overflow-x: auto;
}
.act {
  white-space: nowrap;
}
.link {
  color: var(--primary);
  margin-left: 10px;
}
.mend {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(180px, 1fr));
  gap: 10px;
  padding: 6px 0 10px;
}
.buttons {
  display: flex;
  gap: 8px;
  align-items: end;
}
</style>
