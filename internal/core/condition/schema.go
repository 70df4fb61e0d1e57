package condition

// Schema is the JSON Schema (draft 2020-12) of a condition. It states each test with
// the ways it can be compared and what each needs; Check knows a little more, such as
// parts that can never hold together.
func Schema() map[string]any {
	tests := []any{}
	for _, form := range Forms {
		for _, way := range form.Ways {
			tests = append(tests, waySchema(form, way))
		}
	}
	return map[string]any{
		"$schema": "https://json-schema.org/draft/2020-12/schema",
		"title":   "Condition",
		"description": "Which posts a rule catches: a group of conditions, or a test of one fact. " +
			"Spans of days and longer are counted by the calendar of the site's zone, from each run.",
		"$ref": "#/$defs/node",
		"$defs": map[string]any{
			"node": map[string]any{"oneOf": append([]any{map[string]any{"$ref": "#/$defs/group"}}, tests...)},
			"group": map[string]any{
				"type": "object", "required": []string{"group", "parts"}, "additionalProperties": false,
				"properties": map[string]any{
					"group": map[string]any{"enum": []Group{AllOf, AnyOf, NoneOf}},
					"parts": map[string]any{"type": "array", "minItems": 1,
						"items": map[string]any{"$ref": "#/$defs/node"}},
				},
			},
		},
	}
}

func waySchema(form Form, way Way) map[string]any {
	properties := map[string]any{"test": map[string]any{"const": form.Test},
		"match": map[string]any{"const": way.Match}}
	required := []string{"test", "match"}
	add := func(name string, schema map[string]any) {
		properties[name] = schema
		required = append(required, name)
	}
	text := map[string]any{"type": "string", "minLength": 1, "maxLength": maxText}
	for _, need := range way.Needs {
		switch need {
		case NeedValues:
			item := text
			if form.From == "list" {
				item = map[string]any{"enum": form.Choices}
			}
			add("values", map[string]any{"type": "array", "minItems": 1, "maxItems": MaxValues, "items": item})
		case NeedValue:
			add("values", map[string]any{"type": "array", "minItems": 1, "maxItems": 1, "items": text})
		case NeedField:
			add("field", text)
		case NeedNumber:
			least := 0
			if way.Match == MatchUnder {
				least = 1
			}
			add("n", map[string]any{"type": "integer", "minimum": least, "maximum": maxNumber})
		case NeedSpan:
			least := 1
			most, units := maxUnits, Units
			if way.Match == MatchPassed || way.Match == MatchRound {
				least = 0
			}
			if way.Match == MatchRound {
				most, units = mostRound[Days], []Unit{Days, Weeks, Months}
			}
			add("n", map[string]any{"type": "integer", "minimum": least, "maximum": most})
			add("unit", map[string]any{"enum": units})
		case NeedDate:
			add("date", map[string]any{"type": "string", "format": "date"})
		case NeedDays:
			add("days", map[string]any{"type": "integer", "minimum": 1, "maximum": 3660})
		}
	}
	return map[string]any{"type": "object", "title": form.Label + " " + way.Label, "properties": properties,
		"required": required, "additionalProperties": false}
}
