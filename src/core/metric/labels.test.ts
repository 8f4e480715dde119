import fc from "fast-check";
import { predicate } from "../reading/language/conditions";
import { parseCondition } from "../reading/language/parse";
import { isOriginAttribute, labelOf, labelsOf, ORIGIN_ATTRIBUTES } from "./labels";

const names = [...ORIGIN_ATTRIBUTES, "depot", "host.name"];
const attributes = fc.dictionary(fc.constantFrom(...names), fc.constantFrom("production", "staging", "", "7"));

describe("the attributes of a series", () => {
  it("take from the resource alone who reports, and all others from the point first", () => {
    fc.assert(
      fc.property(attributes, attributes, (resource, own) => {
        const labels = labelsOf({ resource, attributes: own });
        for (const name of names) {
          const expected = isOriginAttribute(name) ? resource[name] : (own[name] ?? resource[name]);
          expect(labelOf({ resource, attributes: own }, name)).toBe(expected);
          expect(labels[name]).toBe(expected);
        }
        expect(Object.keys(labels).length).toBe(names.filter((name) => labels[name] !== undefined).length);
      }),
    );
  });

  it("give a point no other environment than that of its resource", () => {
    const ofStaging = { "service.name": "loans", "deployment.environment.name": "staging" };
    const claimed = { "deployment.environment.name": "production", "service.version": "5.3.0" };
    const passes = predicate(parseCondition('environment is "production"'), {});
    expect(passes(labelsOf({ resource: ofStaging, attributes: claimed }))).toBe(false);
    expect(passes(labelsOf({ resource: {}, attributes: claimed }))).toBe(false);
    expect(labelsOf({ resource: ofStaging, attributes: claimed })).toEqual(ofStaging);
  });
});
