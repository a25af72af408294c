package dev.zabbet.factory;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Check;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Generation;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.schema.TableNature;
import dev.zabbet.store.ConstraintException;
import dev.zabbet.type.DataType;
import dev.zabbet.type.Kind;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Checks as four databases report them: invented rows keep them, and the memory store refuses rows that break them. */
class CheckTest {
    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '~',
            value = {
                // condition as reported                                            | keeps: n, t | breaks: n, t
                "\"n\" BETWEEN 4 AND 20                                             | 4  | a     | 3  | a",
                "((n >= 4) AND (n <= 20))                                           | 20 | a     | 21 | a",
                "`n` > 4 and `n` < 20                                               | 5  | a     | 20 | a",
                "\"t\" IN('ONE', 'TWO')                                             | 1  | TWO   | 1  | two",
                "((t)::text = ANY ((ARRAY['ONE'::character varying, 'TWO'::character varying])::text[])) | 1 | ONE | 1 | x",
                "`t` in (_utf8mb4'ONE',_utf8mb4'TWO')                               | 1  | ONE   | 1  | x",
                "t = 'ONE' OR t = 'TWO'                                             | 1  | TWO   | 1  | x",
                "char_length(t) >= 3 and length(t) <= 5                             | 1  | abc   | 1  | ab",
                "n IS NULL OR n > 100                                               | 101| a     | 5  | a",
                "CAST(n AS INTEGER) <> -1                                           | 0  | a     | -1 | a",
                "NOT (n < 0)                                                        | 0  | a     | -1 | a",
                "CHAR_LENGTH(\"t\") <= 3                                            | 1  | abc   | 1  | abcd",
            })
    void rowsKeepTheirChecks(String condition, int n, String t, int brokenN, String brokenT) {
        Stage stage = Memory.stage(schema(condition));
        for (Row row : stage.add(50, "thing")) {
            assertTrue(row.has("n"));
        }
        stage.add(Factory.forTable("thing").with("n", n).with("t", t));
        ZabbetException refusal = assertThrows(
                ZabbetException.class,
                () -> stage.add(Factory.forTable("thing").with("n", brokenN).with("t", brokenT)));
        assertTrue(
                refusal.getMessage().startsWith("A row of thing would break its check c, " + condition),
                refusal::getMessage);
        stage.expect("thing").count(51);
        ConstraintException memory =
                assertThrows(ConstraintException.class, () -> ((dev.zabbet.internal.memory.MemoryStore) stage.store())
                        .insert(
                                stage.schema().require("thing"),
                                Row.row("n", brokenN).with("t", brokenT)));
        assertEquals("23514", memory.sqlState());
        assertEquals(Optional.of("c"), memory.constraint());
    }

    @Test
    void aCheckThatLeavesNothingIsNamedBeforeAnythingIsStored() {
        Stage stage = Memory.stage(schema("n > 10 AND n < 5"));
        assertEquals(
                "No value can be invented for thing.n: its checks leave no number between 11 and 4."
                        + " Give it one: with(\"n\", …).",
                assertThrows(ZabbetException.class, () -> stage.add("thing")).getMessage());
    }

    @Test
    void aConditionThatOnlyTheDatabaseUnderstandsIsLeftToIt() {
        Stage stage = Memory.stage(schema("soundex(t) = 'A123'"));
        stage.add("thing");
        stage.expect("thing").count(1);
    }

    private static Schema schema(String condition) {
        Column n = new Column(
                "n", "n", DataType.precise(Kind.INTEGER, "INTEGER", 32, 0), false, Optional.empty(), Generation.NONE);
        Column t = new Column(
                "t", "t", DataType.sized(Kind.TEXT, "VARCHAR(40)", 40), false, Optional.empty(), Generation.NONE);
        return new Schema(List.of(new Table(
                "thing",
                "",
                "thing",
                List.of(n, t),
                Optional.empty(),
                List.of(),
                List.of(),
                List.of(new Check("c", condition)),
                TableNature.PLAIN)));
    }
}
