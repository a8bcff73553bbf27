/** Chakra with our own tokens only: copper, slate, paper. */
import { createSystem, defaultBaseConfig, defineRecipe, defineSlotRecipe } from '@chakra-ui/react'

const button = defineRecipe({
  className: 'rh-button',
  base: {
    fontFamily: 'heading',
    fontWeight: '600',
    fontSize: '15px',
    cursor: 'pointer',
    borderRadius: '2px',
    px: '12px',
    h: '30px',
    display: 'inline-flex',
    alignItems: 'center',
    gap: '6px',
    _disabled: { opacity: 0.45, cursor: 'default' },
  },
  variants: {
    variant: {
      ink: { bg: 'ink', color: 'paper' },
      copper: { bg: 'transparent', color: 'copperText', borderWidth: '1px', borderColor: 'copper' },
      plain: { bg: 'transparent', color: 'ink', borderWidth: '1px', borderColor: 'rule' },
      link: { bg: 'transparent', color: 'copperText', px: '0', h: 'auto', fontFamily: 'body', textAlign: 'left' },
    },
  },
  defaultVariants: { variant: 'plain' },
})

const dialog = defineSlotRecipe({
  className: 'rh-dialog',
  slots: [
    'trigger',
    'backdrop',
    'positioner',
    'content',
    'title',
    'description',
    'closeTrigger',
    'header',
    'body',
    'footer',
  ],
  base: {
    backdrop: { position: 'fixed', inset: '0', bg: 'veil', zIndex: 40 },
    positioner: {
      position: 'fixed',
      inset: '0',
      display: 'flex',
      justifyContent: 'center',
      alignItems: 'flex-start',
      pt: '9vh',
      px: '12px',
      zIndex: 41,
      overflow: 'auto',
    },
    content: {
      bg: 'sheet',
      color: 'ink',
      borderWidth: '1px',
      borderColor: 'ink',
      borderRadius: '3px',
      w: '100%',
      maxW: '620px',
      outline: 'none',
    },
    header: { px: '20px', pt: '16px', pb: '6px' },
    title: { fontFamily: 'heading', fontSize: '20px', fontWeight: '600' },
    body: { px: '20px', py: '8px' },
    footer: { px: '20px', pb: '18px', pt: '10px', display: 'flex', gap: '10px', justifyContent: 'flex-end' },
  },
})

const menu = defineSlotRecipe({
  className: 'rh-menu',
  slots: [
    'trigger',
    'positioner',
    'content',
    'item',
    'itemText',
    'itemGroup',
    'itemGroupLabel',
    'itemCommand',
    'separator',
    'indicator',
    'triggerItem',
    'contextTrigger',
    'arrow',
    'arrowTip',
  ],
  base: {
    content: {
      bg: 'sheet',
      color: 'ink',
      borderWidth: '1px',
      borderColor: 'ink',
      borderRadius: '3px',
      py: '4px',
      minW: '190px',
      outline: 'none',
      zIndex: 42,
    },
    item: {
      px: '14px',
      minH: '32px',
      display: 'flex',
      alignItems: 'center',
      cursor: 'pointer',
      fontSize: '15px',
      _highlighted: { bg: 'wash', color: 'copperText' },
    },
  },
})

const toast = defineSlotRecipe({
  className: 'rh-toast',
  slots: ['root', 'title', 'description', 'indicator', 'closeTrigger', 'actionTrigger'],
  base: {
    root: {
      bg: 'ink',
      color: 'paper',
      borderRadius: '3px',
      px: '16px',
      py: '8px',
      display: 'flex',
      alignItems: 'center',
      gap: '14px',
      w: 'max-content',
      maxW: 'min(520px, calc(100vw - 32px))',
      // What the toaster's machine says of place and height.
      translate: 'var(--x) var(--y)',
      scale: 'var(--scale)',
      opacity: 'var(--opacity)',
      height: 'var(--height)',
      zIndex: 'var(--z-index)',
    },
    title: { fontSize: '15px' },
    actionTrigger: { minH: '28px', px: '8px', fontWeight: '600', cursor: 'pointer', textDecoration: 'underline' },
    closeTrigger: { minW: '28px', minH: '28px', fontSize: '18px', cursor: 'pointer' },
  },
})

const tone = (light: string, dark: string) => ({ value: { base: light, _dark: dark } })

export const system = createSystem(defaultBaseConfig, {
  preflight: true,
  theme: {
    tokens: {
      fonts: {
        heading: { value: "'Barlow Semi Condensed', sans-serif" },
        body: { value: "'Barlow', sans-serif" },
        mono: { value: "'JetBrains Mono', monospace" },
      },
    },
    semanticTokens: {
      colors: {
        paper: tone('#F6F3EC', '#1B242B'),
        sheet: tone('#FFFDF8', '#222D35'),
        ink: tone('#23303A', '#EFE9DC'),
        slate: tone('#51626F', '#A9B6BF'),
        rule: tone('#D9D2C4', '#3D4A54'),
        copper: tone('#B3602B', '#D98850'),
        copperText: tone('#9A4F20', '#E59A66'),
        wash: tone('#F2E4D8', '#3A2E26'),
        hold: tone('#2C6E63', '#62B5A5'),
        tight: tone('#8F6200', '#DDAE3F'),
        fail: tone('#A2263B', '#F0788A'),
        veil: tone('#23303A66', '#00000099'),
      },
    },
    recipes: { button },
    slotRecipes: { dialog, menu, toast },
  },
})
