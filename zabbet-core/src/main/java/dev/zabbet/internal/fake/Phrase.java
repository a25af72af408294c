package dev.zabbet.internal.fake;

import dev.zabbet.internal.type.Prop;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * What the name of a method says: a verb, how many, of what, by which conditions, in which order. Conditions are joined by
 * And and Or, And binding closer.
 *
 * @param verb the first word, in lower case
 * @param subject the words between the verb and By, without First, Top, Distinct and All
 * @param most how many rows at most; 0 for all
 * @param distinct whether rows that are alike count once
 * @param alternatives conditions: one of the lists has to hold, each with all of its terms
 * @param order the properties to order by
 * @param by whether the name has a By
 */
record Phrase(
        String verb,
        String subject,
        int most,
        boolean distinct,
        List<List<Term>> alternatives,
        List<Order> order,
        boolean by) {

    /**
     * A condition on one property.
     *
     * @param through the relation that leads to the object whose property it is; empty if it is the object's own
     * @param inside the place in the document that the property holds; empty if the property itself is meant
     */
    record Term(
            Prop property,
            Operator operator,
            boolean ignoreCase,
            Optional<Through> through,
            Optional<DocumentProperty> inside) {}

    /** A relation of an object, to one of another type. */
    record Through(Prop relation, EntityType target) {}

    /** A property to order by; that of an object referred to if a relation leads there. */
    record Order(Prop property, Optional<Through> through, Optional<DocumentProperty> inside, FakeSupport.SortBy by) {
        static Order of(Named named, boolean descending) {
            return of(named, new FakeSupport.SortBy("", descending, false));
        }

        /** The name that it has, however it was written. */
        static Order of(Named named, FakeSupport.SortBy by) {
            String name = named.through()
                            .map(way -> way.relation().name() + ".")
                            .orElse("")
                    + named.property().name()
                    + named.inside().map(place -> place.path().toString()).orElse("");
            return new Order(
                    named.property(),
                    named.through(),
                    named.inside(),
                    new FakeSupport.SortBy(name, by.descending(), by.ignoreCase(), by.nullsFirst()));
        }
    }

    /** How a property and the arguments compare. */
    enum Operator {
        EQUAL(1),
        NOT_EQUAL(1),
        IN(1),
        NOT_IN(1),
        LIKE(1),
        NOT_LIKE(1),
        CONTAINING(1),
        NOT_CONTAINING(1),
        STARTING(1),
        ENDING(1),
        GREATER(1),
        AT_LEAST(1),
        LESS(1),
        AT_MOST(1),
        BETWEEN(2),
        NULL(0),
        NOT_NULL(0),
        TRUE(0),
        FALSE(0);

        final int arguments;

        Operator(int arguments) {
            this.arguments = arguments;
        }
    }

    private static final Map<String, Operator> OPERATORS = new TreeMap<>(Map.ofEntries(
            Map.entry("Is", Operator.EQUAL),
            Map.entry("Equals", Operator.EQUAL),
            Map.entry("IsEqualTo", Operator.EQUAL),
            Map.entry("Not", Operator.NOT_EQUAL),
            Map.entry("IsNot", Operator.NOT_EQUAL),
            Map.entry("In", Operator.IN),
            Map.entry("IsIn", Operator.IN),
            Map.entry("NotIn", Operator.NOT_IN),
            Map.entry("IsNotIn", Operator.NOT_IN),
            Map.entry("Like", Operator.LIKE),
            Map.entry("IsLike", Operator.LIKE),
            Map.entry("NotLike", Operator.NOT_LIKE),
            Map.entry("Containing", Operator.CONTAINING),
            Map.entry("Contains", Operator.CONTAINING),
            Map.entry("NotContaining", Operator.NOT_CONTAINING),
            Map.entry("StartingWith", Operator.STARTING),
            Map.entry("StartsWith", Operator.STARTING),
            Map.entry("EndingWith", Operator.ENDING),
            Map.entry("EndsWith", Operator.ENDING),
            Map.entry("GreaterThan", Operator.GREATER),
            Map.entry("IsGreaterThan", Operator.GREATER),
            Map.entry("MoreThan", Operator.GREATER),
            Map.entry("Above", Operator.GREATER),
            Map.entry("After", Operator.GREATER),
            Map.entry("IsAfter", Operator.GREATER),
            Map.entry("GreaterThanEqual", Operator.AT_LEAST),
            Map.entry("GreaterThanOrEqualTo", Operator.AT_LEAST),
            Map.entry("AtLeast", Operator.AT_LEAST),
            Map.entry("From", Operator.AT_LEAST),
            Map.entry("OnOrAfter", Operator.AT_LEAST),
            Map.entry("LessThan", Operator.LESS),
            Map.entry("IsLessThan", Operator.LESS),
            Map.entry("Below", Operator.LESS),
            Map.entry("Under", Operator.LESS),
            Map.entry("Before", Operator.LESS),
            Map.entry("IsBefore", Operator.LESS),
            Map.entry("LessThanEqual", Operator.AT_MOST),
            Map.entry("LessThanOrEqualTo", Operator.AT_MOST),
            Map.entry("AtMost", Operator.AT_MOST),
            Map.entry("UpTo", Operator.AT_MOST),
            Map.entry("OnOrBefore", Operator.AT_MOST),
            Map.entry("Between", Operator.BETWEEN),
            Map.entry("IsBetween", Operator.BETWEEN),
            Map.entry("Null", Operator.NULL),
            Map.entry("IsNull", Operator.NULL),
            Map.entry("NotNull", Operator.NOT_NULL),
            Map.entry("IsNotNull", Operator.NOT_NULL),
            Map.entry("True", Operator.TRUE),
            Map.entry("IsTrue", Operator.TRUE),
            Map.entry("False", Operator.FALSE),
            Map.entry("IsFalse", Operator.FALSE)));
    private static final Pattern LIMIT = Pattern.compile("(First|Top)(\\d*)(?=[A-Z]|$)");
    private static final Pattern VERB = Pattern.compile("[a-z0-9_]+");

    /** Returns the first word of a name. */
    static String verbOf(String name) {
        Matcher verb = VERB.matcher(name);
        return verb.lookingAt() ? verb.group().toLowerCase(Locale.ROOT) : name.toLowerCase(Locale.ROOT);
    }

    static Phrase read(String name, EntityType entity) throws UnknownMethodException {
        String verb = verbOf(name);
        String rest = name.substring(Math.min(verb.length(), name.length()));
        int orderAt = rest.lastIndexOf("OrderBy");
        List<Order> order = orderAt < 0 ? List.of() : order(rest.substring(orderAt + 7), entity);
        rest = orderAt < 0 ? rest : rest.substring(0, orderAt);
        int by = byAt(rest);
        String head = by < 0 ? rest : rest.substring(0, by);
        String tail = by < 0 ? "" : rest.substring(by + 2);
        int most = 0;
        Matcher limit = LIMIT.matcher(head);
        if (limit.find()) {
            most = limit.group(2).isEmpty() ? 1 : Integer.parseInt(limit.group(2));
            head = limit.replaceFirst("");
        }
        boolean distinct = head.contains("Distinct");
        String subject = head.replace("Distinct", "").replaceAll("All(?=[A-Z]|$)", "");
        if (subject.equals("One") || subject.equals("Many") || subject.equals("Any")) {
            subject = "";
        }
        List<List<Term>> alternatives =
                tail.isEmpty() ? List.of() : new Reader(words(tail), entity, tail).alternatives();
        return new Phrase(verb, subject, most, distinct, alternatives, order, by >= 0);
    }

    /** Finds the first By that begins a word and ends one. */
    private static int byAt(String text) {
        Matcher by = Pattern.compile("By(?=[A-Z]|$)").matcher(text);
        return by.find() ? by.start() : -1;
    }

    static List<String> words(String text) {
        return Arrays.asList(text.split("(?<=[a-z0-9])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])|_"));
    }

    private static List<Order> order(String text, EntityType entity) throws UnknownMethodException {
        List<Order> order = new ArrayList<>();
        List<String> words = words(text);
        int start = 0;
        while (start < words.size()) {
            Optional<Named> found = Optional.empty();
            int end = words.size();
            for (; end > start && found.isEmpty(); end--) {
                found = named(words.subList(start, end), entity);
            }
            if (found.isEmpty()) {
                throw unknown(String.join("", words.subList(start, words.size())), entity);
            }
            end++;
            boolean descending = end < words.size() && words.get(end).startsWith("Desc");
            boolean directed =
                    descending || (end < words.size() && words.get(end).startsWith("Asc"));
            order.add(Order.of(found.get(), descending));
            start = directed ? end + 1 : end;
            if (start < words.size()
                    && (words.get(start).equals("And") || words.get(start).equals("Then"))) {
                start++;
            }
        }
        return order;
    }

    /** A property that some words mean, of the object itself, of one that it refers to, or of a document that it holds. */
    record Named(Prop property, Optional<Through> through, Optional<DocumentProperty> inside) {
        static Named own(Prop property) {
            return new Named(property, Optional.empty(), Optional.empty());
        }
    }

    /** Finds the property that words mean, the longest of the object's own first. */
    static Optional<Named> named(List<String> words, EntityType entity) {
        Optional<Prop> own = entity.property(String.join("", words));
        if (own.isPresent()) {
            return own.map(Named::own);
        }
        for (int middle = words.size() - 1; middle > 0; middle--) {
            Prop relation = entity.property(String.join("", words.subList(0, middle)))
                    .filter(Prop::isReference)
                    .orElse(null);
            EntityType target =
                    relation == null ? null : entity.target(relation).orElse(null);
            Prop property = target == null
                    ? null
                    : target.property(String.join("", words.subList(middle, words.size())))
                            .orElse(null);
            if (relation != null && target != null && property != null) {
                return Optional.of(new Named(property, Optional.of(new Through(relation, target)), Optional.empty()));
            }
        }
        return DocumentProperty.find(words, entity)
                .map(place -> new Named(place.owner(), Optional.empty(), Optional.of(place)));
    }

    private static UnknownMethodException unknown(String words, EntityType entity) {
        return new UnknownMethodException("'" + words + "' is no property of "
                + entity.type().getSimpleName() + "; its properties are " + entity.names());
    }

    /** Reads conditions word by word; the longest property and the longest operator count. */
    private record Reader(List<String> words, EntityType entity, String text) {

        List<List<Term>> alternatives() throws UnknownMethodException {
            List<List<Term>> found = parse(0);
            if (found.isEmpty()) {
                throw unknown(culprit(), entity);
            }
            return found;
        }

        /** Returns the conditions from a word on; empty if they cannot be read. */
        private List<List<Term>> parse(int start) {
            for (int end = words.size(); end > start; end--) {
                Optional<Named> property = named(words.subList(start, end), entity);
                if (property.isEmpty()) {
                    continue;
                }
                for (int after = words.size(); after >= end; after--) {
                    Optional<Term> term = term(property.get(), words.subList(end, after));
                    List<List<Term>> all = term.isEmpty() ? List.of() : rest(term.get(), after);
                    if (!all.isEmpty()) {
                        return all;
                    }
                }
            }
            return List.of();
        }

        private List<List<Term>> rest(Term term, int at) {
            if (at == words.size()) {
                return List.of(List.of(term));
            }
            boolean and = words.get(at).equals("And");
            if (!and && !words.get(at).equals("Or")) {
                return List.of();
            }
            List<List<Term>> others = parse(at + 1);
            if (others.isEmpty()) {
                return List.of();
            }
            List<List<Term>> all = new ArrayList<>();
            List<Term> first = new ArrayList<>(List.of(term));
            if (and) {
                first.addAll(others.get(0));
            }
            all.add(first);
            all.addAll(and ? others.subList(1, others.size()) : others);
            return all;
        }

        private static Optional<Term> term(Named named, List<String> words) {
            String text = String.join("", words);
            boolean ignoreCase = text.endsWith("IgnoreCase") || text.endsWith("IgnoringCase");
            String bare = text.replaceFirst("Ignor(e|ing)Case$", "");
            Operator operator = bare.isEmpty() ? Operator.EQUAL : OPERATORS.get(bare);
            return Optional.ofNullable(operator)
                    .map(o -> new Term(named.property(), o, ignoreCase, named.through(), named.inside()));
        }

        /** Finds the part that is most likely misspelt. */
        private String culprit() {
            for (String part : text.split("(?<=[a-z])(And|Or)(?=[A-Z])")) {
                if (new Reader(Phrase.words(part), entity, part).parse(0).isEmpty()) {
                    return part;
                }
            }
            return text;
        }
    }

    /** Returns how many arguments the conditions take. */
    int arguments() {
        return alternatives.stream()
                .flatMap(List::stream)
                .mapToInt(term -> term.operator().arguments)
                .sum();
    }
}
