<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { describeApi } from '#shared/api/site'

/** The API as it describes itself: to read, to try, and to take along. */
interface Described {
  paths: Record<string, Record<string, { summary: string; tags: string[] }>>
}

const session = useSession()
const { copied, copy } = useCopy()
const whole = shallowRef<Described | null>(null)
const refused = shallowRef<Refused | null>(null)
const find = ref('')
const settledFind = refDebounced(find, 150)
try {
  whole.value = (await callApi(describeApi)) as unknown as Described
} catch (error) {
  refused.value = asRefused(error)
}

/** The operations that hold all of the words. */
const shown = computed(() => {
  const words = settledFind.value.toLowerCase().split(/\s+/).filter(Boolean)
  const paths = Object.entries(whole.value?.paths ?? {}).map(([path, methods]) => {
    const fitting = Object.entries(methods).filter(([method, { summary, tags }]) => {
      const text = `${method} ${path} ${summary} ${tags.join(' ')}`.toLowerCase()
      return words.every((word) => text.includes(word))
    })
    return [path, Object.fromEntries(fitting)] as const
  })
  return { ...whole.value, paths: Object.fromEntries(paths.filter(([, methods]) => Object.keys(methods).length > 0)) }
})
const isEmpty = computed(() => Object.keys(shown.value.paths).length === 0)

const origin = useRequestURL().origin
const examples = [
  { title: 'Once, in the shell', text: `CONDUIT=${origin}\nTOKEN=…` },
  {
    title: 'Tags by words, in pages',
    text: 'curl -H "Authorization: Bearer $TOKEN" \\\n  "$CONDUIT/api/tags?find=active+power&sort=-path&limit=20"',
  },
  {
    title: 'Write a value',
    text: `curl -X PUT "$CONDUIT/api/tags/1/value" -H "Authorization: Bearer $TOKEN" \\\n  -H 'Content-Type: application/json' -d '{"value": 350}'`,
  },
]
</script>

<template>
  <div class="page">
    <SiteHead>
      <ListFilter v-model="find" label="Filter operations" />
    </SiteHead>
    <FaultNote v-if="refused" :fault="refused.why" />
    <section class="sheet part">
      <h2 class="sheet-title">For programs</h2>
      <p>
        A program sends a token; an administrator makes it
        <NuxtLink v-if="session.can('administer')" to="/site/people">under People</NuxtLink><template v-else>under People</template>. The
        description itself is <a href="/api/openapi.json" download="keen-conduit-api.json">OpenAPI 3.1, to take along</a>, at
        <span class="mono">{{ origin }}/api/openapi.json</span>.
      </p>
      <div class="examples">
        <div v-for="example in examples" :key="example.title">
          <div class="example-head">
            <strong>{{ example.title }}</strong>
            <v-btn height="24" @click="copy(example.text)">{{ copied === example.text ? 'Copied' : 'Copy' }}</v-btn>
          </div>
          <pre class="mono">{{ example.text }}</pre>
        </div>
      </div>
    </section>
    <p v-if="whole && isEmpty" class="quiet">No operation has these words.</p>
    <ApiExplorer v-if="whole" v-show="!isEmpty" :document="shown" />
  </div>
</template>

<style scoped>
.part {
  padding: 12px 16px;
}
.examples {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(300px, 1fr));
  gap: 14px;
  margin-top: 10px;
}
.example-head {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
pre {
  margin-top: 4px;
  padding: 8px 10px;
  border-radius: 4px;
  background: var(--tint);
  font-size: 12px;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
</style>
