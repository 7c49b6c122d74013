"""Validates a JSON file against a JSON Schema: validate_schema.py SCHEMA FILE."""
import json
import sys

from jsonschema import Draft7Validator

schema, document = (json.load(open(name, encoding="utf-8")) for name in sys.argv[1:3])
Draft7Validator.check_schema(schema)
errors = list(Draft7Validator(schema).iter_errors(document))
for error in errors:
    print("/".join(map(str, error.absolute_path)) + ": " + error.message)
sys.exit(bool(errors))
