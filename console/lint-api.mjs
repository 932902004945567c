// Checks the published description of the API by the linter's recommended rules: node lint-api.mjs FILE
// Ends with 1 if a rule is broken; warnings are printed only.
import { readFileSync } from "node:fs";
import { createConfig, lintFromString } from "@redocly/openapi-core";

const config = await createConfig({ extends: ["recommended"] });
const found = await lintFromString({
  source: readFileSync(process.argv[2], "utf8"),
  absoluteRef: "openapi.json",
  config,
});
for (const { severity, ruleId, message, location } of found)
  console.log(`${severity} ${ruleId}: ${message} (${location[0]?.pointer})`);
process.exit(found.some((one) => one.severity === "error") ? 1 : 0);
