package dev.zabbet.internal.plan.document;

import dev.zabbet.internal.check.Sampler;
import dev.zabbet.internal.jsonschema.Formats;
import dev.zabbet.internal.jsonschema.JsonSchema;
import dev.zabbet.internal.jsonschema.SchemaNode;
import dev.zabbet.internal.plan.value.Maker;
import dev.zabbet.internal.text.Words;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import dev.zabbet.value.Values;
import java.math.BigDecimal;
import java.time.LocalTime;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Optional;

/** A text that a schema allows: by its format, its pattern, or a readable one that its field's name suggests. */
final class TextValue {
    private static final int MOST_TRIES = 60;

    private final JsonSchema schema;
    private final MergedSchema merged;
    private final String holder;
    private final String name;

    TextValue(JsonSchema schema, MergedSchema merged, String holder, String name) {
        this.schema = schema;
        this.merged = merged;
        this.holder = Words.snakeCase(holder);
        this.name = Words.snakeCase(name);
    }

    String make(Values draws) {
        int least = merged.greatest("minLength").map(BigDecimal::intValue).orElse(0);
        int most = merged.least("maxLength").map(BigDecimal::intValue).orElse(Integer.MAX_VALUE);
        List<String> formats =
                merged.texts("format").stream().filter(Formats::isKnown).toList();
        List<String> patterns = merged.texts("pattern");
        String text = "";
        for (int i = 0; i < MOST_TRIES; i++) {
            if (!patterns.isEmpty()) {
                text = ofPattern(patterns.get(i % patterns.size()), least, draws);
            } else if (!formats.isEmpty()) {
                text = formats.get(0).equals("date")
                        ? made(draws, DataType.of(Kind.DATE, ""))
                        : ofFormat(formats.get(0), draws);
            } else {
                return fitted(readable(draws, most), least, most);
            }
            int length = text.codePointCount(0, text.length());
            String made = text;
            if (length >= least
                    && length <= most
                    && patterns.stream()
                            .allMatch(p -> schema.pattern(p).matcher(made).find())
                    && formats.stream().allMatch(format -> Formats.holds(format, made))) {
                return text;
            }
        }
        return text;
    }

    /** Makes the name of a field that nothing describes. */
    String fieldName(Values draws, int number) {
        List<String> patterns = merged.nodes().stream()
                .flatMap(node -> node.named("patternProperties").entrySet().stream())
                .filter(entry -> !entry.getValue().isNever())
                .map(java.util.Map.Entry::getKey)
                .toList();
        List<SchemaNode> names = merged.nodes().stream()
                .flatMap(node -> node.schema("propertyNames").stream())
                .toList();
        if (!names.isEmpty()) {
            MergedSchema ofName = new MergedSchema(schema, names, draws);
            return ofName.listed()
                    .filter(listed -> !listed.isEmpty())
                    .map(listed -> String.valueOf(listed.get(draws.between(0, listed.size() - 1))))
                    .orElseGet(() -> new TextValue(schema, ofName, holder, name).make(draws));
        }
        return patterns.isEmpty()
                ? draws.word() + number
                : ofPattern(patterns.get(draws.between(0, patterns.size() - 1)), 1, draws);
    }

    private static String ofPattern(String pattern, int least, Values draws) {
        Optional<Sampler> sampler = Sampler.of(pattern, true);
        StringBuilder text = new StringBuilder(
                sampler.map(known -> known.any(n -> draws.between(0, n - 1))).orElseGet(draws::word));
        while (text.length() < least) {
            text.append(
                    pattern.startsWith("^") && pattern.endsWith("$")
                            ? sampler.map(known -> known.any(n -> draws.between(0, n - 1)))
                                    .orElse("x")
                            : "x");
        }
        return text.toString();
    }

    private String readable(Values draws, int most) {
        return made(
                draws,
                DataType.sized(Kind.TEXT, "", most == Integer.MAX_VALUE ? DataType.UNLIMITED : Math.max(1, most)));
    }

    /** Makes what a column of this name and type would hold. */
    private String made(Values draws, DataType type) {
        return String.valueOf(Maker.of(holder, name, type).make(draws, Maker.ANY));
    }

    private static String fitted(String text, int least, int most) {
        String cut = text.codePointCount(0, text.length()) > most
                ? text.substring(0, text.offsetByCodePoints(0, most))
                : text;
        int missing = least - cut.codePointCount(0, cut.length());
        return missing > 0 ? cut + "x".repeat(missing) : cut;
    }

    private static String ofFormat(String format, Values draws) {
        return switch (format) {
            case "time" -> clock(draws) + "Z";
            case "date-time" ->
                draws.now()
                        .minusSeconds(draws.between(0, 43_200) * 60L)
                        .truncatedTo(ChronoUnit.SECONDS)
                        .toString();
            case "duration" -> "PT" + draws.between(1, 23) + "H" + draws.between(1, 59) + "M";
            case "email", "idn-email" -> draws.email();
            case "hostname", "idn-hostname" -> draws.word() + draws.between(1, 99) + ".example.org";
            case "ipv4" -> "192.0.2." + draws.between(1, 254); // for documentation, RFC 5737
            case "ipv6" ->
                "2001:0db8:0000:0000:0000:0000:0000:"
                        + String.format(java.util.Locale.ROOT, "%04x", draws.between(1, 65_535)); // RFC 3849
            case "uri", "iri" -> "https://example.org/" + draws.word() + "/" + draws.between(1, 999);
            case "uri-reference", "iri-reference" -> "/" + draws.word() + "/" + draws.between(1, 999);
            case "uuid" -> draws.uuid().toString();
            case "json-pointer" -> "/" + draws.word() + "/" + draws.between(0, 9);
            default -> "^" + draws.word() + "[0-9]+$"; // regex
        };
    }

    private static String clock(Values draws) {
        return LocalTime.of(draws.between(0, 23), draws.between(0, 59)).toString() + ":00";
    }
}
