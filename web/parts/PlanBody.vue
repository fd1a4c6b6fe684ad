<script setup lang="ts">
import type { PlanView } from '../../api/plans.ts';
import { computed } from 'vue';
import { usePlan } from '../stores/plan.ts';
import { count } from './words.ts';
import AppButton from '../kit/AppButton.vue';
import AppFold from '../kit/AppFold.vue';

const props = defineProps<{ plan: PlanView }>();
const plans = usePlan();
const undoTogether = ({ entryId }: NonNullable<PlanView['together']>) =>
  plans.propose({ kind: 'undo', entryId, withLater: true });
/** What is too long to be shown whole. */
const more = computed(() =>
  (
    [
      ['clashes', 'conflict', 'conflicts'],
      ['moves', 'move'],
      ['removed', 'item'],
      ['created', 'item'],
      ['settings', 'other change'],
      ['records', 'record'],
      ['pages', 'page'],
      ['changes', 'placement', 'placements'],
    ] as const
  )
    .filter(([key]) => props.plan.more[key] > 0)
    .map(([key, word, many]) => count(props.plan.more[key], `more ${word}`, `more ${many ?? `${word}s`}`)),
);
const shortened = computed(() => props.plan.redirects.filter((one) => one.was !== undefined).length);
</script>

<template>
  <div class="proof">
    <div v-if="plan.clashes.length" class="note losing" role="alert">
      <strong>This can’t be done yet.</strong>
      <ul>
        <li v-for="(clash, index) in plan.clashes" :key="index">
          <span class="mono">{{ clash.path }}</span> {{ clash.why }}
        </li>
      </ul>
      <AppButton v-if="plan.together" @click="undoTogether(plan.together)">
        Undo together with {{ count(plan.together.later, 'later change') }} …
      </AppButton>
    </div>
    <div v-if="plan.warnings.length" class="note">
      <ul>
        <li v-for="(warning, index) in plan.warnings" :key="index">{{ warning }}</li>
      </ul>
    </div>
    <dl v-if="plan.moves.length" class="moves">
      <template v-for="move in plan.moves" :key="move.from">
        <dt class="mono">
          <del>{{ move.from }}</del>
        </dt>
        <dd class="mono">
          <ins>{{ move.to }}</ins>
        </dd>
      </template>
    </dl>
    <ul v-if="plan.removed.length" class="paths mono">
      <li v-for="path in plan.removed" :key="path">
        <del>{{ path }}</del>
      </li>
    </ul>
    <ul v-if="plan.created.length" class="paths mono">
      <li v-for="path in plan.created" :key="path">
        <ins>{{ path }}</ins>
      </li>
    </ul>
    <table v-if="plan.settings.length" class="ruled">
      <tbody>
        <tr v-for="(one, index) in plan.settings" :key="index">
          <td class="where">{{ one.what }}</td>
          <td>
            <del v-if="one.before">{{ one.before }}</del> <ins v-if="one.after">{{ one.after }}</ins>
            <span v-else class="soft">{{ one.what === 'Folder' ? '' : 'none' }}</span>
          </td>
        </tr>
      </tbody>
    </table>
    <table v-if="plan.records.length" class="ruled">
      <tbody v-for="(record, index) in plan.records" :key="index">
        <tr v-for="field in record.fields" :key="field.field">
          <td class="where">
            <span class="mono">{{ record.path }}</span><br />{{ field.field }}
          </td>
          <td>
            <del v-if="field.before">{{ field.before }}</del> <ins>{{ field.after || '(empty)' }}</ins>
          </td>
        </tr>
      </tbody>
    </table>
    <template v-if="plan.pages.length">
      <h3>References updated on {{ count(plan.pages.length, 'page') }}</h3>
      <table class="ruled">
        <tbody v-for="page in plan.pages" :key="page.page">
          <tr v-for="(change, index) in page.changes" :key="index">
            <td class="where">
              <span class="mono">{{ page.page }}</span><br /><span class="soft figures"
                >line {{ change.line }}, {{ change.place }}</span
              >
            </td>
            <td class="mono">
              <del>{{ change.oldUrl }}</del><br /><ins>{{ change.newUrl }}</ins>
            </td>
          </tr>
        </tbody>
      </table>
    </template>
    <p v-else-if="plan.moves.length && !plan.clashes.length" class="soft">
      No page uses it, so no page changes.
    </p>
    <p v-if="more.length" class="soft figures">And {{ more.join(', ') }} not shown.</p>
    <AppFold
      v-if="plan.redirects.length"
      :open="plan.redirects.length === 1"
      :title="`${count(plan.redirects.length, 'redirect')} from old to new addresses${
        shortened ? `, ${count(shortened, 'older redirect')} updated` : ''
      }`"
    >
      <dl class="moves mono">
        <template v-for="one in plan.redirects.slice(0, 100)" :key="one.from">
          <dt>{{ one.from }}</dt>
          <dd>
            <del v-if="one.was">{{ one.was }}</del> <ins>{{ one.to }}</ins>
          </dd>
        </template>
      </dl>
      <p v-if="plan.redirects.length > 100" class="soft">
        The redirects file lists the others when it’s done.
      </p>
    </AppFold>
  </div>
</template>

<style scoped>
.proof {
  display: flex;
  max-height: 58vh;
  flex-direction: column;
  gap: 12px;
  overflow: auto;
}
del {
  color: var(--madder);
}
ins {
  color: var(--verdigris);
  text-decoration: none;
  font-weight: 600;
}
ul {
  margin: 0;
  padding-left: 18px;
}
.paths {
  padding-left: 0;
  list-style: none;
}
.moves {
  margin: 0;
}
.moves dd {
  margin: 2px 0 8px;
}
.where {
  width: 300px;
  word-break: break-all;
}
td:not(.where) {
  overflow-wrap: anywhere;
}
.note strong {
  display: block;
}
</style>
