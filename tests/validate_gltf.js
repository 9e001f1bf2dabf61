// What npm's gltf-validator says of files; ends with 1 where it finds a mistake.
//   node validate_gltf.js FOLDER_OF_NODE_MODULES FILE...
const fs = require('fs');
const path = require('path');
const validator = require(path.join(process.argv[2], 'gltf-validator'));

(async () => {
  let mistakes = 0;
  for (const file of process.argv.slice(3)) {
    const report = await validator.validateBytes(new Uint8Array(fs.readFileSync(file)), {
      uri: path.basename(file),
      externalResourceFunction: (uri) => new Promise((resolve, reject) => {
        const beside = path.resolve(path.dirname(file), decodeURIComponent(uri));
        fs.readFile(beside, (e, data) => (e ? reject(e.toString()) : resolve(new Uint8Array(data))));
      }),
    });
    const issues = report.issues;
    console.log(`${path.basename(file)}: ${issues.numErrors} errors, ${issues.numWarnings} warnings`);
    for (const m of issues.messages) {
      if (m.severity <= 1) console.log(`  ${m.code} ${m.pointer}: ${m.message}`);
    }
    mistakes += issues.numErrors;
  }
  process.exit(mistakes ? 1 : 0);
})();
