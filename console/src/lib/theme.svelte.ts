/** Light or dark: what the browser asks for, or what was chosen here. */

class Theme {
  dark = $state(false);

  constructor() {
    const kept = localStorage.getItem('yugum-mode');
    this.set(kept ? kept === 'dark' : matchMedia('(prefers-color-scheme: dark)').matches);
  }

  turn(): void {
    this.set(!this.dark);
    localStorage.setItem('yugum-mode', this.dark ? 'dark' : 'light');
  }

  private set(dark: boolean): void {
    this.dark = dark;
    document.documentElement.dataset.mode = dark ? 'dark' : 'light';
  }
}

export const theme = new Theme();
