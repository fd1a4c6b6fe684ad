/** A browser and its system in two words, from what it says of itself; what is not known is told as it stands. */
export function browserIn(agent: string): string {
  const browser = /Edg\//.test(agent)
    ? 'Edge'
    : /OPR\//.test(agent)
      ? 'Opera'
      : /Firefox\//.test(agent)
        ? 'Firefox'
        : /Chrom(?:e|ium)\//.test(agent)
          ? 'Chrome or Chromium'
          : /Safari\//.test(agent)
            ? 'Safari'
            : '';
  const system = /Windows/.test(agent)
    ? 'Windows'
    : /iPhone|iPad/.test(agent)
      ? 'iOS'
      : /Android/.test(agent)
        ? 'Android'
        : /Mac OS X/.test(agent)
          ? 'macOS'
          : /Linux/.test(agent)
            ? 'Linux'
            : '';
  if (!browser) return agent.slice(0, 60) || 'Unknown';
  return system ? `${browser} on ${system}` : browser;
}
