import { LRUCache } from 'lru-cache';
import pLimit, { type LimitFunction } from 'p-limit';

/** Spans that are sent to one process together, since they are made of the same pictures. */
export interface CompanyOf {
  id: number;
  /** How many there are. */
  size: number;
}

/** Pictures that a member may be ahead of the slowest. */
const ahead = 1;

/** Pictures that are kept for members who have not come to them yet. */
const kept = 3;

/** Those at work in this process. */
const companies = new Map<number, Company>();

/**
 * Spans of several outputs that are made of the same pictures, in one process: they keep step, and each picture is read once for all.
 */
export class Company {
  /** How many results each member that has come has done. */
  private readonly done = new Map<Member, number>();
  private waiting: { member: Member; at: number; go: () => void }[] = [];
  /** How many have come. */
  private came = 0;
  private readonly pictures = new LRUCache<string, Promise<object>>({ max: kept });
  private readonly held = new Map<string, Promise<{ close: () => Promise<void> }>>();
  private left = 0;
  readonly side: LimitFunction;

  private constructor(
    private readonly of: CompanyOf,
    /** Results that are worked on at once, of all members together. */
    atOnce: number,
  ) {
    this.side = pLimit(atOnce);
  }

  /** Takes a place in a company; every one of them has to be left. */
  static enter(of: CompanyOf, atOnce: number): Member {
    const company = companies.get(of.id) ?? new Company(of, atOnce);
    companies.set(of.id, company);
    const member = new Member(company);
    company.done.set(member, 0);
    company.came += 1;
    return member;
  }

  /** Waits until nobody is too far behind. One that was stopped waits for nobody. */
  async turn(member: Member, at: number): Promise<void> {
    if (!this.done.has(member) || this.least() + ahead >= at) return;
    await new Promise<void>((go) => this.waiting.push({ member, at, go }));
  }

  step(member: Member): void {
    const done = this.done.get(member);
    if (done !== undefined) this.done.set(member, done + 1);
    this.callOn();
  }

  /** Takes note that a member is not waited for any more, and does not wait. */
  stop(member: Member): void {
    this.done.delete(member);
    this.callOn();
  }

  /** Ends a member's part, once nothing of it is at work. */
  async leave(member: Member): Promise<void> {
    this.stop(member);
    this.left += 1;
    if (this.left < this.of.size) return;
    companies.delete(this.of.id);
    this.pictures.clear();
    for (const held of this.held.values()) await held.then((one) => one.close()).catch(() => undefined);
  }

  /** A picture, read by whoever comes first. @param key what tells it, and how it is read, from others */
  read<T extends object>(key: string, make: () => Promise<T>): Promise<T> {
    let picture = this.pictures.get(key) as Promise<T> | undefined;
    if (!picture) this.pictures.set(key, (picture = make()));
    return picture;
  }

  /** Something that stays open until the last has left. */
  open<T extends { close: () => Promise<void> }>(key: string, make: () => Promise<T>): Promise<T> {
    let one = this.held.get(key) as Promise<T> | undefined;
    if (!one) this.held.set(key, (one = make()));
    return one;
  }

  /** What the slowest has done; nothing while one has not come yet. */
  private least(): number {
    return this.came < this.of.size ? 0 : Math.min(...this.done.values());
  }

  private callOn(): void {
    const least = this.least();
    const mayGo = ({ member, at }: { member: Member; at: number }) => !this.done.has(member) || least + ahead >= at;
    const late = this.waiting;
    this.waiting = late.filter((one) => !mayGo(one));
    for (const one of late) if (mayGo(one)) one.go();
  }
}

/** A span's place in its company. */
export class Member {
  constructor(readonly company: Company) {}

  /** Does a result when it is its turn. @param at its place in the span */
  async take(at: number, work: () => Promise<void>): Promise<void> {
    await this.company.turn(this, at);
    try {
      await this.company.side(work);
    } finally {
      this.company.step(this);
    }
  }

  /** It does nothing more: nobody waits for it. */
  stop(): void {
    this.company.stop(this);
  }

  leave(): Promise<void> {
    return this.company.leave(this);
  }
}
