<script setup lang="ts">
import { sideText } from '#core/faults/catalogue'
import { clockText } from '#core/text/moment'
import { ageText } from '#core/text/duration'
import { changeText } from '#core/diagnosis/changes'
import type { Verdict } from '#shared/diagnosis'

/** What a stop on a path means: the likeliest cause with what to do and where, then what else it may be, with what speaks for and against. */
const props = defineProps<{ verdict: Verdict }>()
const first = computed(() => props.verdict.causes[0]!)
const others = computed(() => props.verdict.causes.slice(1).filter(({ isRuledOut }) => !isRuledOut))
const ruledOut = computed(() => props.verdict.causes.slice(1).filter(({ isRuledOut }) => isRuledOut))
const worked = computed(() => props.verdict.lastGood)
</script>

<template>
  <div class="causes">
    <section class="sheet cause" role="alert" :data-cause="first.id">
      <h2 class="sheet-title">{{ first.title }}</h2>
      <ul v-if="first.for.length" class="signs">
        <li v-for="text in first.for" :key="text">{{ text }}</li>
        <li v-for="text in first.against" :key="text" class="quiet">against it: {{ text }}</li>
      </ul>
      <h3>{{ first.where }}</h3>
      <ol>
        <li v-for="text in first.next" :key="text">{{ text }}</li>
      </ol>
      <p v-if="first.unmeasured" class="quiet">Not measured: {{ first.unmeasured }}</p>
      <p class="side">
        Whose side: <strong>{{ sideText[first.side] }}</strong>
      </p>
      <div class="actions"><slot /></div>
    </section>

    <slot name="next" />

    <section v-if="verdict.wayRound" class="sheet below" data-way-round>
      <h2 class="sheet-title">If the way cannot be opened: a relay</h2>
      <p>
        Run a second copy of Keen Conduit on a machine that reaches {{ verdict.wayRound.reaches }}, and pair the two. From there to here one
        outgoing TCP port has to pass (4843, or another), and nothing the other way.
        <NuxtLink to="/site/relays" class="link">Make a code for it</NuxtLink>
      </p>
    </section>

    <section v-if="others.length" class="sheet below">
      <h2 class="sheet-title">Also possible</h2>
      <table class="others">
        <tbody>
          <tr v-for="cause in others" :key="cause.id" :data-cause="cause.id">
            <td>
              {{ cause.title }}<span class="quiet where">{{ cause.where }}</span>
            </td>
            <td class="quiet">
              <div v-for="text in cause.for" :key="text">for: {{ text }}</div>
              <div v-for="text in cause.against" :key="text">against: {{ text }}</div>
              <div v-if="!cause.for.length && !cause.against.length">nothing for or against yet</div>
              <div v-if="cause.unmeasured">not measured: {{ cause.unmeasured }}</div>
            </td>
          </tr>
        </tbody>
      </table>
    </section>

    <section class="sheet below">
      <h2 class="sheet-title">Before and after</h2>
      <p v-if="worked === null" class="quiet">It never worked, as far as is known here.</p>
      <template v-else>
        <p>
          Worked until <span class="mono">{{ clockText(worked) }}</span>, {{ ageText(verdict.at - worked) }}.
          <span v-if="!verdict.changes.length" class="quiet">Nothing that can be seen from here is otherwise now.</span>
        </p>
        <table v-if="verdict.changes.length" class="others">
          <tbody>
            <tr v-for="change in verdict.changes" :key="change.what" :data-change="change.what">
              <td>{{ changeText[change.what] }}</td>
              <td>
                <span class="mono">{{ change.before }}</span> → <span class="mono">{{ change.now }}</span>
              </td>
            </tr>
          </tbody>
        </table>
      </template>
    </section>

    <section v-if="ruledOut.length" class="sheet below">
      <details>
        <summary>Ruled out by what was measured: {{ ruledOut.length }}</summary>
        <table class="others">
          <tbody>
            <tr v-for="cause in ruledOut" :key="cause.id">
              <td class="quiet">{{ cause.title }}</td>
              <td class="quiet">
                <div v-for="text in cause.against" :key="text">{{ text }}</div>
              </td>
            </tr>
          </tbody>
        </table>
      </details>
    </section>
  </div>
</template>

<style scoped>
.causes {
  display: grid;
  gap: 12px;
}
.cause {
  padding: 14px 18px;
  border-left: 4px solid var(--break);
}
.signs {
  margin: 6px 0 10px;
  padding-left: 16px;
}
h3 {
  font-size: 13px;
  font-weight: 600;
  margin: 8px 0 2px;
}
ol {
  margin: 0 0 8px;
  padding-left: 20px;
}
li {
  overflow-wrap: anywhere;
}
.side {
  margin: 6px 0 0;
}
.actions:not(:empty) {
  margin-top: 10px;
  display: flex;
  gap: 8px;
}
.below {
  padding: 12px 18px;
}
.below p {
  margin: 4px 0 6px;
}
.others {
  width: 100%;
  border-collapse: collapse;
}
.others td {
  padding: 7px 8px 7px 0;
  border-bottom: 1px solid var(--line-soft);
  vertical-align: top;
  overflow-wrap: anywhere;
}
.others td:first-child {
  width: 46%;
}
.others tr:last-child td {
  border-bottom: 0;
}
.where {
  display: block;
  font-size: 12px;
}
summary {
  cursor: pointer;
  color: var(--quiet);
}
</style>
