<script setup lang="ts">
import { onMounted, ref, watch } from 'vue';
import type { AccessView, MemberView } from '../../../api/people.ts';
import { narrows, ROLES, ROLE_TEXTS, type Role } from '../../../core/people/rights.ts';
import { api, sentenceOf } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import AppDialog from '../../kit/AppDialog.vue';
import AppInput from '../../kit/AppInput.vue';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';
import AppTags from '../../kit/AppTags.vue';
import AppTable, { type Column } from '../../kit/AppTable.vue';
import { moment } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import HandOn from './HandOn.vue';
import { accessText } from './access-text.ts';

/** Who works here and what each may do; and who came in. For whoever answers for all. */
const store = useSite();
const plan = usePlan();
const COLUMNS: Column<MemberView>[] = [
  { key: 'name', label: 'Name', minWidth: 180 },
  { key: 'role', label: 'Role', width: 190 },
  { key: 'folders', label: 'Works in', width: 200 },
  { key: 'state', label: 'Signed in', minWidth: 190 },
  { key: 'acts', label: 'Acts', width: 220, silent: true },
];
const LOG: Column<AccessView>[] = [
  { key: 'at', label: 'When', width: 170 },
  { key: 'what', label: 'What', minWidth: 280 },
  { key: 'address', label: 'From', width: 170 },
];
const members = ref<MemberView[]>([]);
const log = ref<AccessView[]>([]);
const name = ref('');
const role = ref<Role>('contributor');
const fault = ref('');
/** Whose second factor is to be removed. */
const unfactoring = ref<MemberView>();
const removeFactor = () =>
  act(async () => {
    await api.endFactorOf(unfactoring.value!.id);
    unfactoring.value = undefined;
  });
/** Whose work is handed on. */
const handing = ref<MemberView>();
/** A link is told once: only its hash is kept. */
const link = ref<{ name: string; address: string }>();
async function load() {
  try {
    [members.value, log.value] = await Promise.all([api.people(), api.accessLog()]);
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
onMounted(load);
// Also what was undone, and what another steward has changed.
watch(
  () => store.site,
  () => store.may('people') && load(),
);
async function act(work: () => Promise<unknown>) {
  fault.value = '';
  try {
    await work();
    await store.load();
  } catch (error) {
    fault.value = sentenceOf(error);
  }
  if (store.may('people')) await load();
}
/** Each is a plan: told below, with its undo, and kept in the ledger. */
const change = ({ id }: MemberView, to: { role?: Role; ended?: boolean; folders?: string[] }) =>
  act(() => plan.make({ kind: 'person', personId: id, ...to }));
/** Whose rights are narrowed to folders, and to which. */
const narrowing = ref<MemberView>();
const chosen = ref<string[]>([]);
const folders = ref<string[]>([]);
async function narrow(one: MemberView) {
  narrowing.value = one;
  chosen.value = one.folders;
  folders.value = (await api.folders()).map(({ folder }) => folder).filter((folder) => folder !== '');
}
const keepFolders = () =>
  act(async () => {
    await plan.make({ kind: 'person', personId: narrowing.value!.id, folders: chosen.value });
    narrowing.value = undefined;
  });
const tell = ({ person, token }: { person: { name: string }; token: string }) =>
  (link.value = { name: person.name, address: `${location.origin}/welcome#${token}` });
const invite = () =>
  act(async () => {
    tell(await api.invite(name.value, role.value));
    name.value = '';
  });
const copied = ref(false);
async function copy() {
  await navigator.clipboard.writeText(link.value!.address);
  copied.value = true;
}
const stateOf = (one: MemberView) =>
  one.endedAt
    ? `ended ${moment(one.endedAt)}`
    : one.seenAt
      ? `last seen ${moment(one.seenAt)}`
      : one.hasPassword
        ? 'not signed in'
        : one.provided
          ? 'not signed in'
          : 'has no password yet';
</script>

<template>
  <div class="surface">
    <div class="head">
      <h1>People and access</h1>
      <p class="soft">Who may do what. Whoever ends stays in the ledger by name.</p>
    </div>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <AppTable
      label="People"
      :rows="members"
      :columns="COLUMNS"
      :row-key="(one) => String(one.id)"
      :row-class="(one) => (one.endedAt ? 'ended' : '')"
    >
      <template #role="{ row }">
        <span v-if="row.endedAt">{{ row.role }}</span>
        <span v-else-if="row.provided">{{ row.role }} <span class="soft">by their groups</span></span>
        <label v-else
          ><span class="hidden-words">Role of {{ row.name }}</span
          ><AppSelect :model-value="row.role" :chars="13" @change="change(row, { role: $event as Role })"
            ><AppOption v-for="one in ROLES" :key="one" :value="one" :label="one" /></AppSelect
        ></label>
      </template>
      <template #folders="{ row }">
        <AppButton
          v-if="!row.endedAt && narrows(row.role)"
          look="link"
          :aria-label="`Folders of ${row.name}: ${row.folders.join(', ') || 'whole site'}`"
          @click="narrow(row)"
          >{{ row.folders.join(', ') || 'whole site' }} …</AppButton
        >
        <span v-else class="soft">whole site</span>
      </template>
      <template #state="{ row }"
        >{{ stateOf(row)
        }}<template v-if="row.hasFactor">
          <br /><AppButton
            look="link"
            :aria-label="`Remove the second factor of ${row.name}`"
            @click="unfactoring = row"
            >Remove second factor …</AppButton
          ></template
        ></template
      >
      <template #acts="{ row }">
        <span v-if="row.endedAt" class="acts"
          ><AppButton
            look="link"
            :aria-label="`Bring ${row.name} back`"
            @click="change(row, { ended: false })"
            >Bring back</AppButton
          ><AppButton look="link" :aria-label="`Hand on what ${row.name} had`" @click="handing = row"
            >Hand on …</AppButton
          ></span
        >
        <span v-else class="acts"
          ><AppButton
            look="link"
            :aria-label="`New link for ${row.name}`"
            @click="act(async () => tell(await api.newLink(row.id)))"
            >New link …</AppButton
          ><AppButton
            look="link"
            :aria-label="`End access of ${row.name}`"
            @click="change(row, { ended: true })"
            >End access</AppButton
          ></span
        >
      </template>
    </AppTable>
    <h2>Invite someone</h2>
    <form class="form-row" @submit.prevent="invite">
      <label>Name <AppInput v-model="name" :chars="24" maxlength="80" /></label>
      <label
        >Role
        <AppSelect v-model="role" :chars="46"
          ><AppOption v-for="one in ROLES" :key="one" :value="one" :label="`${one}: ${ROLE_TEXTS[one]}`" />
        </AppSelect>
      </label>
      <AppButton look="main" type="submit" :disabled="!name.trim()">Make a link</AppButton>
    </form>
    <h2>Access log</h2>
    <p v-if="!log.length" class="soft">Nobody has signed in yet.</p>
    <AppTable v-else label="Access log" :rows="log" :columns="LOG" :row-key="(one) => String(one.id)">
      <template #at="{ row }">{{ moment(row.at) }}</template>
      <template #what="{ row }">{{ accessText(row) }}</template>
    </AppTable>
    <AppDialog
      :model-value="narrowing !== undefined"
      :title="`Folders of ${narrowing?.name}`"
      width="520px"
      @close="narrowing = undefined"
    >
      <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
      <p>
        What {{ narrowing?.name }} may change is narrowed to these folders and those in them. Elsewhere
        {{ narrowing?.name }} looks, downloads and proposes.
      </p>
      <p class="folders">
        <AppTags v-model="chosen" :known="folders" label="Folders" placeholder="The whole site" />
      </p>
      <template #footer>
        <AppButton look="main" @click="keepFolders">Save</AppButton>
      </template>
    </AppDialog>
    <AppDialog
      :model-value="unfactoring !== undefined"
      title="Remove second factor"
      width="460px"
      @close="unfactoring = undefined"
    >
      <p>
        {{ unfactoring?.name }} then signs in with the password alone, and can set up a new one. Do this only
        when you know that {{ unfactoring?.name }} has lost the device and the recovery codes.
      </p>
      <template #footer>
        <AppButton @click="unfactoring = undefined">Cancel</AppButton>
        <AppButton danger @click="removeFactor">Remove</AppButton>
      </template>
    </AppDialog>
    <HandOn v-if="handing" :member="handing" @close="handing = undefined" />
    <AppDialog
      :model-value="link !== undefined"
      title="A link to hand on"
      width="560px"
      @close="((link = undefined), (copied = false))"
    >
      <p>
        With this link {{ link?.name }} sets a password. It works once, for seven days, and is shown only now.
        Nothing is sent: hand it on yourself.
      </p>
      <p class="mono link">{{ link?.address }}</p>
      <template #footer>
        <span class="soft" role="status">{{ copied ? 'Copied.' : '' }}</span>
        <AppButton look="main" @click="copy">Copy link</AppButton>
      </template>
    </AppDialog>
  </div>
</template>

<style scoped>
h2 {
  padding: 22px 0 8px;
}
.surface :deep(.el-table td.el-table__cell) {
  vertical-align: middle;
}
.acts {
  display: flex;
  gap: 14px;
}
.folders {
  padding-top: 10px;
}
.link {
  padding: 10px 0;
  overflow-wrap: anywhere;
}
</style>
