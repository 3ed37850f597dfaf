/** Grounds of neighbouring fields: ink reaches 7 to 1 on each (WCAG 2.2, 1.4.6). */
const grounds = {
  light: ['#d5e6d3', '#eddcb4', '#d3e0ee', '#f0d3c6', '#e2d6ec', '#d0e8e8'],
  dark: ['#27452f', '#4a3d1b', '#233f5c', '#542f22', '#41304f', '#1f4a4c'],
} as const;

export function tintsOf(mode: 'light' | 'dark'): readonly string[] {
  return grounds[mode];
}
