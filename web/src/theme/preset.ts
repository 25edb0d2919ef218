import { definePreset } from '@primeuix/themes';
import Aura from '@primeuix/themes/aura';

/** The house's look as PrimeNG tokens: reed green for actions, cool paper, one border weight, corners of 6 px, hardly a shadow. */
export const HOUSE_PRESET = definePreset(Aura, {
  primitive: { borderRadius: { none: '0', xs: '3px', sm: '6px', md: '6px', lg: '6px', xl: '6px' } },
  components: {
    // Messages are text, and read as text: on the house's own pale and dark grounds.
    toast: {
      colorScheme: {
        light: {
          success: { background: '#e3efe9', borderColor: '#85bfac', color: '#0b443a' },
          warn: { background: '#f6ecd0', borderColor: '#d9c48a', color: '#5c4305' },
          error: { background: '#f8e2dc', borderColor: '#dfa294', color: '#8a2614' },
        },
        dark: {
          success: { background: '#17332c', borderColor: '#2f6656', color: '#a5e0cf' },
          warn: { background: '#3a2f14', borderColor: '#6b5a2c', color: '#f0d898' },
          error: { background: '#42221b', borderColor: '#7c4336', color: '#f6b6a8' },
        },
      },
    },
    // What is not chosen is still to be read.
    togglebutton: {
      colorScheme: {
        dark: { root: { color: '{surface.200}', hoverColor: '{surface.50}' }, icon: { color: '{surface.200}' } },
      },
    },
    // Tables lie on the paper: no ground of their own.
    datatable: {
      headerCell: { background: 'transparent', selectedBackground: 'transparent', hoverBackground: 'transparent' },
      row: { background: 'transparent' },
    },
  },
  semantic: {
    primary: {
      50: '#eef6f3',
      100: '#d9ebe4',
      200: '#b3d8cb',
      300: '#85bfac',
      400: '#5fc4a8',
      500: '#0f5b4c',
      600: '#0d5145',
      700: '#0b443a',
      800: '#09362e',
      900: '#072a24',
      950: '#041a16',
    },
    focusRing: { width: '3px', style: 'solid', color: '{primary.color}', offset: '2px' },
    formField: { paddingX: '12px', paddingY: '7px' },
    colorScheme: {
      light: {
        surface: {
          0: '#ffffff',
          50: '#fbfcfa',
          100: '#f4f6f3',
          200: '#e6ebe6',
          300: '#d5dcd6',
          400: '#8a968f',
          500: '#55625c',
          600: '#44504b',
          700: '#33403a',
          800: '#223029',
          900: '#16211d',
          950: '#0b120f',
        },
        primary: { color: '#0f5b4c', contrastColor: '#ffffff', hoverColor: '#0b443a', activeColor: '#09362e' },
        text: { color: '#16211d', mutedColor: '#55625c' },
      },
      dark: {
        formField: { placeholderColor: '#a3b1a9' },
        surface: {
          0: '#ffffff',
          50: '#e8eee9',
          100: '#c6d0ca',
          200: '#a3b1a9',
          300: '#7d8c84',
          400: '#5f6e66',
          500: '#46544d',
          600: '#35423c',
          700: '#2b3833',
          800: '#1f2a26',
          900: '#17211d',
          950: '#0f1714',
        },
        primary: { color: '#5fc4a8', contrastColor: '#0b1a15', hoverColor: '#85d3bd', activeColor: '#a5e0cf' },
      },
    },
  },
});
