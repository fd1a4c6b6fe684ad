import type { SettingNamespace, SettingStep, SettingValue } from '../../core/plan/plan.ts';
import type { Comments } from './comments.ts';
import type { Findings } from './findings.ts';
import type { ItemNames } from './item-names.ts';
import type { Members } from './members.ts';
import type { Rules } from './rules.ts';
import type { SiteState } from './site-state.ts';
import type { SavedQueries } from './saved-queries.ts';
import type { ServiceSettings } from './service-settings.ts';
import type { Submissions } from './submissions.ts';
import type { SuggestedTags } from './suggested-tags.ts';
import type { Tags } from './tags.ts';
import type { Layout } from './layout.ts';
import type { NamePatterns, OwnFields, Treatments } from './vocabulary.ts';

interface Parts {
  itemNames: ItemNames;
  rules: Rules;
  tags: Tags;
  queries: SavedQueries;
  patterns: NamePatterns;
  treatments: Treatments;
  fields: OwnFields;
  layout: Layout;
  findings: Findings;
  comments: Comments;
  members: Members;
  submissions: Submissions;
  services: ServiceSettings;
  suggestedTags: SuggestedTags;
  siteState: SiteState;
}

/** Everything that plans can change beside files and records, each kind in its own table. */
export class Settings {
  constructor(private readonly parts: Parts) {}

  get(namespace: SettingNamespace, key: string): SettingValue {
    const { rules, tags, queries, patterns, treatments, fields, layout, findings } = this.parts;
    const { comments, members, submissions } = this.parts;
    switch (namespace) {
      case 'comment':
        return comments.value(key);
      case 'person':
        return members.value(key);
      case 'proposal':
        return submissions.value(key);
      case 'proposer':
        return submissions.proposer(key);
      case 'service':
        return this.parts.services.value(key);
      case 'suggested-tags':
        return this.parts.suggestedTags.value(key);
      case 'link-form':
        return this.parts.siteState.linkForm;
      case 'name-pattern':
        return patterns.value(key);
      case 'treatment':
        return treatments.value(key);
      case 'own-field':
        return fields.value(key);
      case 'folder-rule':
        return rules.value(key);
      case 'tag-spelling':
        return tags.tagOfSpelling(key);
      case 'tag-above':
        return tags.above(key);
      case 'kept-query':
        return queries.value(key);
      case 'layout':
        return layout.value(key);
      case 'dismissal':
        return findings.value(key);
      case 'upkeep':
        return findings.state(key) || null;
    }
  }

  /** Sets what a step says. */
  set(step: SettingStep, personId: number, now: string): void {
    const { namespace, key, after } = step;
    const { itemNames, rules, tags, queries, patterns, treatments, fields, layout, findings } = this.parts;
    const { comments, members, submissions } = this.parts;
    switch (namespace) {
      case 'comment':
        return comments.setValue(key, after);
      case 'person':
        return members.setValue(key, after, personId, now);
      case 'proposal':
        return submissions.setValue(step, personId, now);
      case 'proposer':
        return submissions.setProposer(key, after);
      case 'service':
        return this.parts.services.setValue(key, after);
      case 'suggested-tags':
        return this.parts.suggestedTags.setValue(key, after);
      case 'link-form':
        return this.parts.siteState.setLinkForm(after);
      case 'name-pattern':
        return patterns.setValue(key, after);
      case 'treatment':
        return treatments.setValue(key, after);
      case 'own-field':
        return fields.setValue(key, after);
      case 'folder-rule':
        rules.setValue(key, after);
        return itemNames.uncheck(key);
      case 'tag-spelling':
        return tags.setSpelling(key, after as string | null);
      case 'tag-above':
        return tags.setAbove(key, after as string | null);
      case 'kept-query':
        return queries.setValue(key, after, personId, now);
      case 'layout':
        return layout.setValue(key, after);
      case 'dismissal':
        return findings.setValue(key, after);
      case 'upkeep':
        return findings.setState(key, String(after ?? ''));
    }
  }
}
