declare module '*.vue' {
  const component: object;
  export default component;
}
