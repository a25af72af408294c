package dev.zabbet.factory;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Generation;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.TableNature;
import dev.zabbet.schema.UniqueKey;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import java.util.regex.Pattern;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.RepetitionInfo;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** Columns that a check holds to a pattern get texts that match it, each another where the column is unique. */
class PatternPropertyTest {

    @RepeatedTest(60)
    void randomPatternsAreKept(RepetitionInfo repetition) {
        Random random = new Random(repetition.getCurrentRepetition());
        String pattern = "^" + part(random, 3) + part(random, 3) + "[a-z0-9]{6}$";
        List<Row> rows = stage(pattern, true).add(40, "hut");
        String told = "variation " + repetition.getCurrentRepetition() + ": " + pattern + " " + rows;
        assertTrue(
                rows.stream().allMatch(r -> Pattern.compile(pattern)
                        .matcher(String.valueOf(r.get("code")))
                        .find()),
                told);
        assertEquals(40, rows.stream().map(r -> r.get("code")).distinct().count(), told);
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "^[A-Z]{2}-[0-9]+$",
                "^\\+?[0-9 ()-]{7,20}$",
                "^[[:alpha:]][[:alnum:]_]*$",
                "^#[0-9a-fA-F]{6}$",
                "^(https?|ftp)://[^ ]+$",
                "^[a-z0-9._%+-]+@[a-z0-9.-]+\\.[a-z]{2,}$",
                "^\\d{4}-(0[1-9]|1[0-2])$",
                "^([0-9]{1,3}\\.){3}[0-9]{1,3}$",
                "^(?:red|green|blue)?-\\w{3,5}\\d$",
                "[^a-z ]"
            })
    void whatPatternsAreWrittenFor(String pattern) {
        for (Row row : stage(pattern, false).add(30, "hut")) {
            String code = String.valueOf(row.get("code"));
            assertTrue(
                    Pattern.compile(pattern.replace("[:alpha:]", "a-zA-Z").replace("[:alnum:]", "a-zA-Z0-9"))
                            .matcher(code)
                            .find(),
                    () -> pattern + ": " + code);
        }
    }

    private static String part(Random random, int depth) {
        return switch (depth == 0 ? random.nextInt(4) : random.nextInt(7)) {
            case 0 -> "[A-Z]" + quantity(random);
            case 1 -> "\\d" + quantity(random);
            case 2 -> "x";
            case 3 -> "[^-_ ]" + quantity(random);
            case 4 -> "(" + part(random, depth - 1) + "|" + part(random, depth - 1) + ")" + quantity(random);
            case 5 -> "(?:" + part(random, depth - 1) + part(random, depth - 1) + ")?";
            default -> part(random, depth - 1) + "-" + part(random, depth - 1);
        };
    }

    private static String quantity(Random random) {
        return List.of("", "?", "*", "+", "{2}", "{1,3}", "{2,}").get(random.nextInt(7));
    }

    /** The store in memory refuses a row that breaks the check or repeats the text. */
    private static Stage stage(String pattern, boolean unique) {
        Column id = new Column(
                "id",
                "id",
                DataType.precise(Kind.INTEGER, "BIGINT", 64, 0),
                false,
                Optional.empty(),
                Generation.IDENTITY);
        Column code =
                new Column("code", "code", DataType.of(Kind.TEXT, "TEXT"), false, Optional.empty(), Generation.NONE);
        Table hut = new Table(
                "hut",
                "",
                "hut",
                List.of(id, code),
                Optional.of(new UniqueKey("hut_key", List.of("id"))),
                unique ? List.of(new UniqueKey("hut_code", List.of("code"))) : List.of(),
                List.of(),
                List.of(new Check("hut_code_form", "code ~ '" + pattern + "'")),
                TableNature.PLAIN);
        return Memory.stage(new Schema(List.of(hut)));
    }
}
