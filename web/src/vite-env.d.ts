/// <reference types="vite/client" />
declare module '@fontsource/*'
declare module 'katex/dist/katex.min.css'
