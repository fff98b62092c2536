import { z } from "zod";
import { Filled, Id } from "./quantities.ts";
import { ROLES } from "./views.ts";

/** Shorter ones are guessed. */
export const LEAST_PASSWORD = 10;
const Password = z
  .string()
  .min(LEAST_PASSWORD, `at least ${LEAST_PASSWORD} letters: three words that do not belong together do well`)
  .max(200);
const Name = Filled(80, "The name");
const Role = z.enum(ROLES);

export const Person = z.object({ id: Id, name: z.string(), signIn: z.string(), role: Role }).meta({ id: "Person" });
export type PersonView = z.infer<typeof Person>;
export const People = z.object({ people: z.array(Person) }).meta({ id: "People" });

export const Colleagues = z.object({ names: z.array(z.string()) }).meta({ id: "Colleagues" });

const passwordIsNoName = (p: { readonly name: string; readonly signIn: string; readonly password: string }) =>
  ![p.signIn, p.name].some((n) => n.toLowerCase() === p.password.toLowerCase());
const NO_NAME = { path: ["password"], message: "is the name itself: choose another" };

export const PersonAdd = z
  .object({ name: Name, signIn: Filled(80, "The sign-in name"), role: Role, password: Password })
  .refine(passwordIsNoName, NO_NAME)
  .meta({ id: "PersonAdd" });
export type PersonAddInput = z.infer<typeof PersonAdd>;

/** What is left out stays. A new password signs the person out everywhere. */
export const PersonChange = z
  .object({ name: Name.optional(), role: Role.optional(), password: Password.optional() })
  .meta({ id: "PersonChange" });
export type PersonChangeInput = z.infer<typeof PersonChange>;

export const OwnPassword = z
  .object({ current: z.string().min(1, "The current password is needed").max(200), password: Password })
  .meta({ id: "OwnPassword" });
export type OwnPasswordInput = z.infer<typeof OwnPassword>;

const ShopFields = {
  name: Name,
  currency: z.string().regex(/^[A-Z]{3}$/, "three capitals, such as EUR"),
  hourlyRate: z.number("a rate is a number").min(0, "a rate is not negative").max(10_000),
};
/** What estimates begin with, and what a customer agrees to. */
const Terms = {
  taxPercent: z.number("tax is a number").min(0, "tax is not negative").max(60, "over 60 % is a slip of the finger"),
  terms: z.string().trim().max(2000, "at most 2000 letters"),
};
/** Whether the shop's own proved jobs move the odds. */
const Odds = { ownOdds: z.boolean() };
/** @property version - raised with every change: who writes says which one they saw */
export const Shop = z.object({ ...ShopFields, ...Terms, ...Odds, version: z.int().min(0) }).meta({ id: "Shop" });
export type ShopView = z.infer<typeof Shop>;
export const ShopSave = z
  .object({ ...ShopFields, ...Terms, ...Odds, baseVersion: z.int().min(0) })
  .meta({ id: "ShopSave" });
export type ShopSaveInput = z.infer<typeof ShopSave>;

export const Setup = z.object({ open: z.boolean() }).meta({ id: "Setup" });
const { name, currency, hourlyRate } = ShopFields;
/** What a fresh machine is told first. */
export const SetUp = z
  .object({
    /** as the terminal shows it */
    code: z.string().trim().max(20),
    shop: z.object({ name, currency, hourlyRate }),
    owner: z
      .object({ name: Name, signIn: Filled(80, "The sign-in name"), password: Password })
      .refine(passwordIsNoName, NO_NAME),
  })
  .meta({ id: "SetUp" });
