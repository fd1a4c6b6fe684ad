declare module 'stopword' {
  export const dan: string[], deu: string[], eng: string[], fin: string[], fra: string[], ita: string[];
  export const nld: string[], nob: string[], pol: string[], por: string[], spa: string[], swe: string[];
}
