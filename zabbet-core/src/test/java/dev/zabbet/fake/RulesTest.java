package dev.zabbet.fake;

import static dev.zabbet.expect.Expected.any;
import static dev.zabbet.expect.Expected.below;
import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertThrows;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Memory;
import dev.zabbet.Stage;
import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Factory;
import dev.zabbet.rule.Failure;
import dev.zabbet.rule.Rules;
import dev.zabbet.schema.Schema;
import java.sql.SQLException;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.Test;

class RulesTest {
    record Hut(long id, String name, int beds) {}

    interface Huts {
        Hut save(Hut hut);

        void store(List<Hut> huts) throws SQLException;

        Optional<Hut> find(long id);

        List<Hut> findByBeds(int beds);

        long count();
    }

    interface Journal {
        void add(Note note);
    }

    record Note(long id, String text) {}

    private final Stage stage = Memory.stage(Schema.of(Hut.class, Note.class));
    private final Huts huts = stage.fake(Huts.class);
    private final Journal journal = stage.fake(Journal.class);
    private final Rules<Huts> rules = stage.rules(huts);
    private final Hut edelgrat =
            stage.build(Factory.forType(Hut.class).with(Hut::name, "Edelgrat").with(Hut::beds, 34));

    @Test
    void theSecondCallFailsAndTheOthersWork() {
        rules.on(Huts::save).call(2).fails(new IllegalStateException(Failure.deadlock()));

        Hut first = huts.save(edelgrat);
        Exception second = assertThrows(IllegalStateException.class, () -> huts.save(edelgrat));
        huts.save(edelgrat);

        assertEquals("40P01", ((SQLException) second.getCause()).getSQLState());
        assertEquals(2, first.id(), "build took the first number");
        stage.expect("hut").count(2);
        assertEquals(
                List.of(true, false, true),
                rules.calls(Huts::save).list().stream()
                        .map(call -> call.failure().isEmpty())
                        .toList());
    }

    @Test
    void valuesAreGivenInTurnAndTheLastRuleForACallCounts() {
        rules.on(Huts::find).gives(Optional.of(edelgrat), Optional.empty());
        rules.on(Huts::find).with(7L).passesThrough();
        rules.on(Huts::findByBeds).with(below(10)).gives(List.of(edelgrat));
        rules.on(Huts::count).afterCalls(2).gives(99);

        assertEquals(Optional.of(edelgrat), huts.find(1));
        assertEquals(Optional.empty(), huts.find(2));
        assertEquals(Optional.empty(), huts.find(3));
        assertEquals(Optional.empty(), huts.find(7));
        assertEquals(List.of(edelgrat), huts.findByBeds(9));
        assertEquals(List.of(), huts.findByBeds(10));
        assertEquals(List.of(0L, 0L, 99L, 99L), List.of(huts.count(), huts.count(), huts.count(), huts.count()));
        rules.clear();
        assertEquals(Optional.empty(), huts.find(1));
        rules.calls().exactly(1);
    }

    @Test
    void aDelayComesBeforeTheCall() {
        rules.on(Huts::count).delays(Duration.ofMillis(30));
        long before = System.nanoTime();
        assertEquals(0, huts.count());
        assertTrue(System.nanoTime() - before >= 30_000_000);
    }

    @Test
    void strictRulesRefuseWhatNoneIsFor() {
        rules.strict().on(Huts::count).passesThrough();
        assertEquals(0, huts.count());
        AssertionError refusal = assertThrows(AssertionError.class, () -> huts.find(5));
        assertEquals("""
                Unexpected call of Huts: find(5)
                The rules are strict, and none of them is for this call.""", refusal.getMessage());
    }

    @Test
    void callsAreExpectedAndAFailureListsThoseThatCame() throws SQLException {
        List<Hut> given = new ArrayList<>(List.of(edelgrat));
        assertThrows(SQLException.class, () -> {
            rules.on(Huts::store).fails(new SQLException("disk full"));
            huts.store(given);
        });
        given.clear();
        huts.save(edelgrat);
        journal.add(new Note(0, "saved"));

        rules.calls(Huts::save).exactly(1).atLeast(1).atMost(1).with(any()).exactly(1);
        rules.calls(Huts::save).before(stage.rules(journal).calls(Journal::add));
        rules.calls(Huts::find).none();
        assertEquals(
                List.of(edelgrat),
                rules.calls(Huts::store).list().get(0).arguments().get(0),
                "arguments are kept as they were");
        assertMessage("""
                Of Huts.save 2 calls were expected; 1 call came.
                  save(Hut[id=0, name=Edelgrat, beds=34]) gave Hut[id=2, name=Edelgrat, beds=34]""", () -> rules.calls(Huts::save).exactly(2));
        assertMessage(
                """
                Of Huts.find(5) at least 1 call were expected; none came.
                Other calls came:
                  store([Hut[id=0, name=Edelgrat, beds=34]]) failed: java.sql.SQLException: disk full
                  save(Hut[id=0, name=Edelgrat, beds=34]) gave Hut[id=2, name=Edelgrat, beds=34]""".replace("call were", "call was"),
                () -> rules.calls(Huts::find).with(5L).atLeast(1));
        assertMessage("""
                Calls of Journal.add were expected before those of Huts.save; they came like this:
                  save(Hut[id=0, name=Edelgrat, beds=34]) gave Hut[id=2, name=Edelgrat, beds=34]
                  add(Note[id=0, text=saved])""", () -> stage.rules(journal).calls(Journal::add).before(rules.calls(Huts::save)));
    }

    private static void assertMessage(String message, org.junit.jupiter.api.function.Executable code) {
        assertEquals(message, assertThrows(AssertionError.class, code).getMessage());
    }

    @Test
    void rulesThatCannotHoldAreRefusedWhereTheyAreMade() {
        assertRefused(
                "find cannot throw the checked SQLException: it declares none. Wrap it as your data access does, for example in new"
                        + " IllegalStateException(failure).",
                () -> rules.on(Huts::find).fails(new SQLException("no")));
        assertRefused("long count cannot give this: 'many' is not a whole number.", () -> rules.on(Huts::count)
                .gives("many"));
        assertRefused("Optional find cannot give a Hut: Hut[id=0, name=Edelgrat, beds=34].", () -> rules.on(Huts::find)
                .gives(edelgrat));
        assertRefused(
                "save takes 1 argument, and with was given 2. Give any() for one that does not matter.",
                () -> rules.on(Huts::save).with(1, 2));
        assertRefused("Argument 1 of save is a Hut, and with was given String x.", () -> rules.on(Huts::save)
                .with("x"));
        assertRefused(
                "The argument of on(method) is a lambda, which has no name. Give a method reference such as"
                        + " StayRepository::save.",
                () -> rules.on(h -> h.count()));
        assertEquals(
                "call(0): calls are counted from 1.",
                assertThrows(IllegalArgumentException.class, () -> rules.on(Huts::count)
                                .call(0))
                        .getMessage());
        assertRefused(
                "Rules are for what stage.fake or stage.fakeOrReal returned, and this is java.lang.String.",
                () -> stage.rules("no fake"));
    }

    private static void assertRefused(String message, org.junit.jupiter.api.function.Executable code) {
        assertEquals(message, assertThrows(ZabbetException.class, code).getMessage());
    }
}
