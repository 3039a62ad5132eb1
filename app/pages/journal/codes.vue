<script setup lang="ts">
import { explain } from '#core/diagnosis/codes/explain'

/** What any code means, of every layer that is met here. */
const route = useRoute()
const router = useRouter()
const text = ref(typeof route.query.text === 'string' ? route.query.text : '')
const found = computed(() => explain(text.value))
// a link to it can be passed on
watch(text, (now) => void router.replace({ query: now.trim() === '' ? {} : { text: now.slice(0, 1000) } }))
watch(
  () => route.query.text,
  (asked) => typeof asked === 'string' && asked !== text.value.slice(0, 1000) && (text.value = asked),
)
const examples = [
  'BadSecurityChecksFailed',
  'Modbus exception 2',
  '0x800706BA',
  '-2147024891',
  'ECONNRESET',
  'SQLSTATE 28P01',
  'CONNACK 5',
  'SSL alert number 48',
]
const { copied, copy } = useCopy()
const asText = () =>
  found.value
    .map(({ family, code, name, words, causes, checks }) =>
      [
        `${name} (${family}, ${code}): ${words}`,
        ...causes.map((one) => `  - ${one}`),
        ...checks.map((one, i) => `  ${i + 1}. ${one}`),
      ].join('\n'),
    )
    .join('\n\n')
</script>

<template>
  <div class="page">
    <JournalHead>
      <span class="fill" />
      <v-btn v-if="found.length" @click="copy(asText())">{{ copied ? 'Copied' : 'Copy' }}</v-btn>
    </JournalHead>
    <section class="sheet asked">
      <AreaField
        v-model="text"
        label="A code, or a message that holds one"
        :rows="2"
        placeholder="as it was said: a name, a number in decimal or hexadecimal, a whole message"
      />
      <p v-if="!text.trim()" class="quiet">
        For example
        <template v-for="(example, i) in examples" :key="example"
          ><button type="button" class="example mono" @click="text = example">{{ example }}</button
          >{{ i < examples.length - 1 ? ' ' : '' }}</template
        >
      </p>
      <p v-else-if="!found.length" class="quiet" role="status">
        No code of it is known here. Paste more of the message: a small number means something only with a word that tells whose it is.
      </p>
      <p v-else-if="found.length > 1" class="quiet" role="status">
        It means something in {{ found.length }} places; the words around it tell which.
      </p>
    </section>
    <section v-for="one in found" :key="`${one.family} ${one.code} ${one.name}`" class="sheet code" :data-code="one.name">
      <div class="head">
        <h2 class="sheet-title">{{ one.name }}</h2>
        <span class="quiet">{{ one.family }}</span>
        <span class="mono quiet">{{ one.code }}</span>
      </div>
      <p>{{ one.words }}</p>
      <div v-if="one.causes.length || one.checks.length" class="two">
        <div v-if="one.causes.length">
          <h3>What it mostly comes of</h3>
          <ul>
            <li v-for="cause in one.causes" :key="cause">{{ cause }}</li>
          </ul>
        </div>
        <div v-if="one.checks.length">
          <h3>What to look at</h3>
          <ol>
            <li v-for="check in one.checks" :key="check">{{ check }}</li>
          </ol>
        </div>
      </div>
    </section>
  </div>
</template>

<style scoped>
.asked {
  padding: 14px 18px;
  margin-bottom: 12px;
}
.asked p {
  margin: 8px 0 0;
}
.example {
  border: 1px solid var(--line);
  border-radius: 5px;
  padding: 1px 7px;
  margin: 2px 4px 2px 0;
  font-size: 12px;
}
.code {
  padding: 12px 18px;
  margin-bottom: 12px;
}
.head {
  display: flex;
  align-items: baseline;
  gap: 14px;
  flex-wrap: wrap;
}
.code p {
  margin: 4px 0 6px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 20px;
}
h3 {
  font-size: 12px;
  font-weight: 600;
  margin: 4px 0;
}
ul,
ol {
  margin: 0;
  padding-left: 18px;
}
li {
  overflow-wrap: anywhere;
}
</style>
