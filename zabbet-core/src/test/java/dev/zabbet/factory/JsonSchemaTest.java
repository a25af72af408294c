package dev.zabbet.factory;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertTrue;
import static org.junit.jupiter.api.Assertions.fail;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.networknt.schema.JsonNodePath;
import com.networknt.schema.JsonSchema;
import com.networknt.schema.JsonSchemaFactory;
import com.networknt.schema.SchemaValidatorsConfig;
import com.networknt.schema.SpecVersion.VersionFlag;
import com.networknt.schema.ValidationMessage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.internal.plan.value.Draws;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Assumptions;
import org.junit.jupiter.api.Test;

/** Documents made from schemas, and broken ones, beside a validator that others have written. */
class JsonSchemaTest {
    private static final ObjectMapper JSON = new ObjectMapper();
    private static final String SUITE = "ZABBET_JSON_SCHEMA_SUITE";

    @Test
    void whatIsMadePassesAndWhatIsFlawedFailsAtItsOneKeyword() throws Exception {
        Map<String, Integer> broken = new TreeMap<>();
        for (long seed = 1; seed <= 200; seed++) {
            String schema = JSON.writeValueAsString(new RandomSchema(new Random(seed)).make());
            Document document = Document.schema(schema);
            for (int row = 1; row <= 5; row++) {
                Object made = document.apply(draws(row));
                assertEquals(Set.of(), keywords(schema, made), () -> "of schema " + schema);
                assertEquals(made, document.apply(draws(row)), "a row's document is always the same");
                Object filled = document.filled().apply(draws(row));
                assertEquals(Set.of(), keywords(schema, filled), () -> "of schema " + schema);
            }
            List<FlawedDocument> flawed = document.flawed().toList();
            for (FlawedDocument flaw : flawed) {
                Set<String> said = keywords(schema, flaw.document().orElse(null));
                assertEquals(
                        Set.of(flaw.keyword()),
                        said,
                        () -> "variation: " + flaw + " " + flaw.document() + " breaks " + said + " of " + schema);
                broken.merge(flaw.keyword(), 1, Integer::sum);
            }
            long variation = seed;
            assertFalse(flawed.isEmpty(), () -> "nothing of schema " + variation + " can be broken: " + schema);
        }
        assertTrue(broken.keySet().containsAll(RandomSchema.KEYWORDS), () -> "never broken alone: " + broken);
    }

    private static final Set<String> COMBINING = Set.of("anyOf", "oneOf", "contains", "propertyNames", "not");

    private static Draws draws(long ordinal) {
        return new Draws(4711, ordinal, Draws.CLOCK, Object.class, column -> null);
    }

    private static Set<String> keywords(String schema, @Nullable Object document) throws JsonProcessingException {
        JsonSchema validator = JsonSchemaFactory.getInstance(VersionFlag.V202012)
                .getSchema(
                        schema,
                        SchemaValidatorsConfig.builder()
                                .formatAssertionsEnabled(true)
                                .build());
        JsonNode tree = JSON.readTree(JSON.writeValueAsString(document));
        return validator.validate(tree).stream().map(JsonSchemaTest::keyword).collect(Collectors.toSet());
    }

    /** What combines schemas is reported there by what is broken inside. */
    private static String keyword(ValidationMessage message) {
        JsonNodePath way = message.getEvaluationPath();
        for (int i = 0; i < way.getNameCount(); i++) {
            if (COMBINING.contains(String.valueOf(way.getElement(i)))) {
                return String.valueOf(way.getElement(i));
            }
        }
        return message.getType().equals("minContains") ? "contains" : message.getType();
    }

    /** The official suite's cases: what is read is judged as it says, and is made; what is not understood is refused by name. */
    @Test
    void theOfficialCasesAreJudgedAsTheySay() throws Exception {
        String folder = System.getenv(SUITE);
        Assumptions.assumeTrue(folder != null, SUITE + " says where the suite's folder of draft2020-12 is");
        int judged = 0;
        Set<String> wrong = new TreeSet<>();
        Set<String> notMade = new TreeSet<>();
        for (Path file : files(Path.of(folder))) {
            for (JsonNode group : JSON.readTree(file.toFile())) {
                String name =
                        file.getFileName() + ": " + group.get("description").asText();
                Document document;
                try {
                    document = Document.schema(group.get("schema").toString());
                } catch (ZabbetException e) {
                    assertTrue(
                            e.getMessage()
                                    .matches(
                                            ".*(\\$dynamicRef is not understood"
                                                    + "|\\$ref leads to .*, which is not in the document|\\$schema says http://localhost.*)\\."
                                                    + "|.*and only https://json-schema.org/draft/2020-12/schema is understood\\."),
                            e.getMessage());
                    continue;
                }
                for (JsonNode test : group.get("tests")) {
                    judged++;
                    if (document.problems(test.get("data")).isEmpty()
                            != test.get("valid").asBoolean()) {
                        wrong.add(name + " / " + test.get("description").asText());
                    }
                }
                boolean possible = stream(group.get("tests"))
                        .anyMatch(test -> test.get("valid").asBoolean());
                try {
                    assertEquals(List.of(), document.problems(document.filled().apply(draws(1))), name);
                } catch (ZabbetException e) {
                    if (possible) {
                        notMade.add(name);
                    }
                }
            }
        }
        assertEquals(Set.of(), wrong);
        assertEquals(Set.of("not.json: collect annotations inside a 'not', even if collection is disabled"), notMade);
        assertTrue(judged > 1000, () -> "too few cases in " + folder);
    }

    private static Stream<JsonNode> stream(JsonNode list) {
        List<JsonNode> all = new ArrayList<>();
        list.forEach(all::add);
        return all.stream();
    }

    private static List<Path> files(Path folder) throws IOException {
        try (Stream<Path> files = Files.list(folder)) {
            List<Path> found = files.filter(file -> file.toString().endsWith(".json"))
                    .sorted()
                    .toList();
            if (found.isEmpty()) {
                fail("no cases in " + folder);
            }
            return found;
        }
    }

    /** Schemas of all kinds, never deeper than four levels, each of which allows something. */
    private static final class RandomSchema {
        static final Set<String> KEYWORDS = Set.of(
                "type",
                "enum",
                "const",
                "required",
                "minimum",
                "maximum",
                "exclusiveMinimum",
                "exclusiveMaximum",
                "multipleOf",
                "minLength",
                "maxLength",
                "pattern",
                "format",
                "minItems",
                "maxItems",
                "uniqueItems",
                "contains",
                "additionalProperties",
                "minProperties",
                "maxProperties",
                "propertyNames",
                "dependentRequired",
                "oneOf",
                "anyOf",
                "not",
                "unevaluatedProperties");
        private static final List<String> NAMES = List.of(
                "name", "beds", "warden", "email", "opened", "price", "notes", "rooms", "tags", "odd.name", "a b");
        private static final List<String> FORMATS =
                List.of("date", "time", "date-time", "duration", "email", "hostname", "ipv4", "ipv6", "uri", "uuid");
        private static final List<String> PATTERNS =
                List.of("^[A-Z]{2}-\\d{3}$", "^(wood|gas) \\d+$", "[a-f]{4}", "^[^0-9]{3,6}$", "^x.*y$");

        private final Random random;
        private final Map<String, Object> definitions = new LinkedHashMap<>();

        RandomSchema(Random random) {
            this.random = random;
        }

        Map<String, Object> make() {
            definitions.put(
                    "person",
                    map(
                            "type",
                            "object",
                            "required",
                            List.of("name"),
                            "properties",
                            map("name", map("type", "string", "minLength", 2), "next", map("$ref", "#/$defs/person"))));
            Map<String, Object> root = object(0);
            root.put("$defs", definitions);
            return root;
        }

        private Map<String, Object> any(int depth) {
            int kind = random.nextInt(depth > 2 ? 6 : 13);
            return switch (kind) {
                case 0, 1 -> text();
                case 2, 3 -> number();
                case 4 -> map("enum", List.of("wood", "gas", 7, true));
                case 5 -> random.nextBoolean() ? map("const", "hut") : map("type", List.of("boolean", "null"));
                case 6, 7 -> array(depth);
                case 8 -> map("$ref", "#/$defs/person");
                case 9 ->
                    map(
                            "oneOf",
                            List.of(
                                    map(
                                            "type",
                                            "object",
                                            "required",
                                            List.of("wood"),
                                            "properties",
                                            map("wood", number())),
                                    map(
                                            "type",
                                            "object",
                                            "required",
                                            List.of("gas"),
                                            "properties",
                                            map("gas", text()))));
                case 10 ->
                    map("anyOf", List.of(map("type", "string", "minLength", 3), map("type", "integer", "minimum", 10)));
                case 11 -> map("type", "integer", "minimum", 1, "maximum", 9, "not", map("multipleOf", 3));
                default -> object(depth);
            };
        }

        private Map<String, Object> text() {
            Map<String, Object> schema = map("type", "string");
            switch (random.nextInt(5)) {
                case 0 -> schema.put("format", FORMATS.get(random.nextInt(FORMATS.size())));
                case 1 -> schema.put("pattern", PATTERNS.get(random.nextInt(PATTERNS.size())));
                case 2 -> schema.put("minLength", 1 + random.nextInt(30));
                case 3 -> {
                    schema.put("minLength", 2);
                    schema.put("maxLength", 2 + random.nextInt(9));
                }
                default -> schema.put("maxLength", 40);
            }
            return schema;
        }

        private Map<String, Object> number() {
            Map<String, Object> schema = map("type", random.nextBoolean() ? "integer" : "number");
            int low = random.nextInt(200) - 100;
            switch (random.nextInt(4)) {
                case 0 -> schema.put("minimum", low);
                case 1 -> {
                    schema.put("exclusiveMinimum", low);
                    schema.put("exclusiveMaximum", low + 2 + random.nextInt(50));
                }
                case 2 -> {
                    schema.put("maximum", low);
                    schema.put("multipleOf", 1 + random.nextInt(5));
                }
                default -> {
                    schema.put("minimum", low);
                    schema.put("maximum", low + random.nextInt(4));
                }
            }
            return schema;
        }

        private Map<String, Object> array(int depth) {
            Map<String, Object> schema = map("type", "array");
            switch (random.nextInt(4)) {
                case 0 -> {
                    schema.put("items", any(depth + 1));
                    schema.put("minItems", random.nextInt(3));
                    schema.put("maxItems", 3 + random.nextInt(3));
                }
                case 1 -> {
                    schema.put("items", random.nextBoolean() ? text() : map("type", "integer"));
                    schema.put("uniqueItems", true);
                    schema.put("minItems", 1);
                }
                case 2 -> {
                    schema.put("prefixItems", List.of(text(), number()));
                    schema.put("items", any(depth + 1));
                }
                default -> {
                    schema.put("contains", map("const", "quiet"));
                    schema.put("items", map("type", "string"));
                }
            }
            return schema;
        }

        private Map<String, Object> object(int depth) {
            Map<String, Object> properties = new LinkedHashMap<>();
            List<String> required = new ArrayList<>();
            for (int i = 0; i <= random.nextInt(5); i++) {
                String name = NAMES.get(random.nextInt(NAMES.size()));
                properties.put(name, any(depth + 1));
                if (random.nextInt(3) > 0 && !required.contains(name)) {
                    required.add(name);
                }
            }
            Map<String, Object> schema = map("type", "object", "properties", properties, "required", required);
            switch (random.nextInt(7)) {
                case 0 -> schema.put("additionalProperties", false);
                case 1 -> schema.put("minProperties", required.size() + 1);
                case 2 -> schema.put("maxProperties", properties.size() + 1);
                case 3 -> schema.put("propertyNames", map("pattern", "^[a-z. ]+$"));
                case 4 -> {
                    properties.put("heating", map("type", "string"));
                    schema.put("dependentRequired", map("heating", List.of("stoves")));
                    properties.put("stoves", number());
                }
                case 5 -> {
                    schema.put("allOf", List.of(map("properties", map("zone", text()), "required", List.of("zone"))));
                    schema.put("unevaluatedProperties", false);
                }
                default -> schema.put("patternProperties", map("^x-", text()));
            }
            return schema;
        }

        private static Map<String, Object> map(Object... entries) {
            Map<String, Object> map = new LinkedHashMap<>();
            for (int i = 0; i < entries.length; i += 2) {
                map.put((String) entries[i], entries[i + 1]);
            }
            return map;
        }
    }
}
