const interactive = process.stdout.isTTY === true;

/** Tells at the terminal what is being done, how far it is and how long it took. */
export class Steps {
  private began = 0;
  private name = '';
  private lastSaid = 0;

  begin(name: string): void {
    [this.began, this.name, this.lastSaid] = [Date.now(), name, Date.now()];
    if (interactive) process.stdout.write(`  ${name} …`);
    else console.log(`  ${name} …`);
  }

  /** Where nobody watches a terminal, a line now and then is enough. */
  progress(done: number, total: number): void {
    if (interactive) process.stdout.write(`\r  ${this.name} … ${done} of ${total} `);
    else if (Date.now() - this.lastSaid > 10_000) {
      this.lastSaid = Date.now();
      console.log(`  ${this.name} … ${done} of ${total}`);
    }
  }

  end(result = ''): void {
    const seconds = ((Date.now() - this.began) / 1000).toFixed(1);
    const line = `  ${this.name}: ${result ? `${result}, ` : ''}${seconds} s`;
    console.log(interactive ? `\r${line}          ` : line);
  }

  async run<T>(name: string, work: () => Promise<T>, result: (value: T) => string = () => ''): Promise<T> {
    this.begin(name);
    const value = await work();
    this.end(result(value));
    return value;
  }
}
