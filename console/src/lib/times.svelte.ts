/** Times as people say them, or in full with their zone: for all pages, as chosen here. */

class Times {
  /** The year that goes without saying; none is known before the clock was read. */
  year = $state('');
  exact = $state(localStorage.getItem('yugum-times') === 'exact');

  turn(): void {
    this.exact = !this.exact;
    localStorage.setItem('yugum-times', this.exact ? 'exact' : 'short');
  }
}

export const times = new Times();
