"""Validates a JSON file against a JSON Schema: validate_schema.py SCHEMA FILE.

What the schema refers to is looked for among the files beside it, by their $id; nothing is fetched."""
import json
import pathlib
import sys

from jsonschema import RefResolver
from jsonschema.validators import validator_for

path = pathlib.Path(sys.argv[1])
schema, document = (json.load(open(name, encoding="utf-8")) for name in sys.argv[1:3])
Validator = validator_for(schema)
Validator.check_schema(schema)
beside = (json.loads(file.read_text(encoding="utf-8")) for file in path.parent.glob("*.json"))
known = {other["$id"]: other for other in beside if "$id" in other}
errors = list(Validator(schema, resolver=RefResolver.from_schema(schema, id_of=Validator.ID_OF, store=known)).iter_errors(document))
for error in errors:
    print("/".join(map(str, error.absolute_path)) + ": " + error.message)
sys.exit(bool(errors))
