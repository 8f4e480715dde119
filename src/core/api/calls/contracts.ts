import { z } from "zod";
import { contractFile, contractSaving } from "../../contract/contract";
import { metricName } from "../asked";
import { call, plain } from "../call";
import { contractEntry, contractInForce, savedContract } from "../instruments";

/** Contracts: what a team says that its instruments look like. */

export const getContracts = call({
  method: "GET",
  path: "/api/contracts",
  does: "Lists the contracts that are in force.",
  answer: z.object({ contracts: z.array(contractInForce) }),
});

export const getContractVersions = call({
  method: "GET",
  path: "/api/contracts/versions",
  does: "Lists every version of a contract, newest first.",
  query: z.object({ name: z.string().max(300) }),
  answer: z.object({ versions: z.array(contractEntry) }),
  example: { query: { name: "loan.reserved" } },
});

export const saveContract = call({
  method: "POST",
  path: "/api/contracts",
  does: "Saves a contract as its next version.",
  did: "saved a contract",
  about: ({ body }) => `${body.body.name}: ${body.note}`,
  body: contractSaving,
  answer: savedContract,
  status: 201,
  problems: { 409: "Somebody else saved it meanwhile, or it says the same already." },
  example: {
    body: {
      body: { name: "loan.reserved", kind: "counter", unit: "{loan}" },
      note: "what counts as a reservation",
      based: 0,
    },
  },
});

export const withdrawContract = call({
  method: "DELETE",
  path: "/api/contracts",
  does: "Withdraws a contract; its versions stay on record.",
  did: "withdrew a contract",
  about: ({ body }) => `${body.name}: ${body.note}`,
  body: z.object({ name: metricName, note: z.string().trim().min(1, "say in a few words why").max(500) }),
  answer: savedContract,
  problems: { 404: "No contract of that name is in force." },
  example: { body: { name: "loan.reserved", note: "not reported any more" } },
});

/** The formats of files. */
export const fileFormat = z.enum(["yaml", "json"], "files are yaml or json").default("yaml");

export const getContractFile = call({
  method: "GET",
  path: "/api/contracts/file",
  does: "Writes all contracts into a file for review.",
  query: z.object({ format: fileFormat }),
  answer: plain("application/yaml"),
});

export const sendContractFile = call({
  method: "POST",
  path: "/api/contracts/file",
  does: "Takes such a file, YAML or JSON; each contract that says something else is saved.",
  did: "saved contracts from a file",
  body: plain("application/yaml"),
  answer: z.object({ saved: z.array(savedContract), same: z.number() }),
  problems: { 413: "The file is too large." },
  example: { body: "contracts: []\n" },
});

/** What such a file holds. */
export const CONTRACT_FILE = { schema: contractFile, parts: ["contracts"], maxBytes: 8 * 1024 * 1024 };
