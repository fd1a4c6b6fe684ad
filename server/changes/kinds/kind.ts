import type { KindName, RequestOf } from '../../../core/plan/kinds/index.ts';
import type { Site } from '../../app/site.ts';
import type { Progress, Proposal } from '../proposal.ts';

/** For whom a plan is computed, and where it says how far it is. */
export interface Asking {
  personId: number;
  progress?: Progress | undefined;
}

type Compute<Request> = (site: Site, request: Request, asking: Asking) => Proposal | Promise<Proposal>;

/** A kind of plan with how it is computed. */
export interface Planned<Name extends KindName> {
  readonly kind: { readonly name: Name };
  readonly compute: Compute<RequestOf<Name>>;
}

/** Says how a kind of plan is computed. @throws Fault, in words, where it cannot be */
export function planned<Name extends KindName>(
  kind: { readonly name: Name },
  compute: Compute<RequestOf<Name>>,
): Planned<Name> {
  return { kind, compute };
}
