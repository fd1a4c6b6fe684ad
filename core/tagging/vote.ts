import { distanceOf, type Features } from './features.ts';

/** An image that people have tagged. */
export interface Example<Key> {
  key: Key;
  features: Features;
  labels: readonly string[];
}

/** A label that an image could have. */
export interface Voted<Key> {
  label: string;
  /** 0 to 1. */
  confidence: number;
  /** The examples that speak for it most, the nearest first. */
  because: Key[];
}

/** Examples that vote. */
const NEIGHBOURS = 3;
/** Distance at which an example counts a third (1/e) of what the same image would. */
const REACH = 0.42;
/** What stands against every label: neighbours that are far away convince nobody. */
const DOUBT = 0.2;
const REASONS = 3;

/**
 * Labels of an image by a vote of the tagged images that are nearest to it (k nearest neighbours, weighed by distance:
 * S. Dudani, "The Distance-Weighted k-Nearest-Neighbor Rule", 1976). The surest first.
 */
export function voteOn<Key>(features: Features, examples: readonly Example<Key>[]): Voted<Key>[] {
  const nearest = examples
    .map((example) => ({ example, distance: distanceOf(features, example.features) }))
    .sort((one, other) => one.distance - other.distance)
    .slice(0, NEIGHBOURS)
    .map(({ example, distance }) => ({ example, weight: Math.exp(-((distance / REACH) ** 2)) }));
  const all = DOUBT + nearest.reduce((sum, { weight }) => sum + weight, 0);
  const votes = new Map<string, { weight: number; because: Key[] }>();
  for (const { example, weight } of nearest)
    for (const label of new Set(example.labels)) {
      const vote = votes.get(label) ?? { weight: 0, because: [] };
      vote.weight += weight;
      if (vote.because.length < REASONS) vote.because.push(example.key);
      votes.set(label, vote);
    }
  return [...votes]
    .map(([label, { weight, because }]) => ({ label, confidence: weight / all, because }))
    .sort((one, other) => other.confidence - one.confidence || (one.label < other.label ? -1 : 1));
}
