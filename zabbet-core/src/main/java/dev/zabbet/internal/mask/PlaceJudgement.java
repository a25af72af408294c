package dev.zabbet.internal.mask;

import dev.zabbet.type.Kind;
import java.nio.charset.StandardCharsets;
import java.time.LocalDate;
import java.time.temporal.ChronoField;
import java.time.temporal.TemporalAccessor;
import java.util.List;
import java.util.Optional;
import java.util.function.Predicate;

/**
 * Judges one place: by its name, its type, and by what a sample of its values looks like. Where name and content contradict each
 * other, a value that is surely personal counts.
 */
final class PlaceJudgement {
    private static final double MANY = 0.3;
    private static final double MOST = 0.8;
    private static final int WORDS_OF_FREE_TEXT = 4;

    /** Signs that are enough by themselves. */
    private record Sign(Personal kind, String what, Predicate<String> test, double enough) {}

    private static final List<Sign> SIGNS = List.of(
            new Sign(Personal.EMAIL, "E-mail addresses", ContentSigns::isEmail, MANY),
            new Sign(Personal.ACCOUNT, "IBANs with right check digits", ContentSigns::isIban, MANY),
            new Sign(Personal.ACCOUNT, "card numbers with right check digits", ContentSigns::isCard, MOST),
            new Sign(Personal.SECRET, "hashed passwords, tokens or keys", ContentSigns::isHashed, MANY),
            new Sign(Personal.NETWORK, "MAC addresses", ContentSigns::isMac, MANY),
            new Sign(Personal.NETWORK, "IP addresses", PlaceJudgement::isIp, MANY),
            new Sign(Personal.DOCUMENT, "numbers of an authority", ContentSigns::isNationalNumber, MANY),
            new Sign(Personal.PHONE, "phone numbers", ContentSigns::isPhone, 0.5));

    private final Place place;
    private final PlaceSample sample;
    private final boolean besidePersons;
    private final Optional<Personal> byName;

    /** @param besidePersons whether the table's other columns, or its name, are about persons */
    PlaceJudgement(Place place, PlaceSample sample, boolean besidePersons) {
        this.place = place;
        this.sample = sample;
        this.besidePersons = besidePersons || place.isBesidePersons();
        this.byName = PersonalWords.of(place.name());
    }

    Finding judge() {
        Kind kind = place.column().type().kind();
        if (!place.path().isEmpty()) {
            return sample.values().stream().allMatch(String.class::isInstance) ? text() : number();
        }
        return switch (kind) {
            case BOOLEAN -> Finding.kept("is true or false");
            case ENUM -> Finding.kept("is one of a fixed list");
            case TIME -> Finding.kept("is a time of day");
            case INTEGER, DECIMAL, FLOAT -> number();
            case DATE, TIMESTAMP, INSTANT -> date();
            case UUID -> uuid();
            case BYTES -> bytes();
            case TEXT, FIXED_TEXT, ARRAY -> text();
            case JSON -> Finding.kept("shows no sign of persons inside");
            case OTHER -> other();
        };
    }

    private static boolean isIp(String text) {
        return ContentSigns.isSurelyIpV4(text) || (ContentSigns.isHexAddress(text) && !ContentSigns.isMac(text));
    }

    private Finding named(Personal kind) {
        return Finding.masked(kind, "called " + place.name());
    }

    private Finding uuid() {
        return byName.filter(kind -> kind == Personal.SECRET).isPresent()
                ? named(Personal.SECRET)
                : Finding.kept("is an identifier");
    }

    private Finding number() {
        if (place.column().isNumbered() || (isKeyLike() && place.path().isEmpty())) {
            return Finding.kept("is a number that rows are known by");
        }
        Personal kind = byName.orElse(null);
        if (kind != null) {
            switch (kind) {
                case PHONE, DOCUMENT, ACCOUNT, SALARY, BIRTH -> {
                    return named(kind);
                }
                case SECRET -> {
                    if (sample.values().stream()
                            .anyMatch(value -> value.toString().length() >= 4)) {
                        return named(kind);
                    }
                }
                case PLACE, COORDINATES -> {
                    if (besidePersons) {
                        return Finding.masked(kind, "called " + place.name() + " beside persons");
                    }
                }
                default -> {} // a number is none of the others
            }
        }
        long cards = sample.values().stream()
                .map(value -> value instanceof java.math.BigDecimal d ? d.toPlainString() : value.toString())
                .filter(text -> text.length() >= 15 && ContentSigns.isCard(text))
                .count();
        if (cards > 2 && cards >= MOST * sample.values().size()) {
            return Finding.masked(Personal.ACCOUNT, "holds card numbers with right check digits");
        }
        return Finding.kept("is a number");
    }

    private boolean isKeyLike() {
        String name = place.column().name();
        boolean key = place.table().keyColumns().contains(name);
        return (key || !place.table().referencesOf(name).isEmpty()) && byName.isEmpty();
    }

    private Finding date() {
        if (byName.filter(kind -> kind == Personal.BIRTH).isPresent()) {
            return named(Personal.BIRTH);
        }
        if (PersonalWords.isDateOfThing(place.name())
                || (PersonalWords.saysSomething(place.name()) && !besidePersons)
                || sample.values().size() < 3) {
            return Finding.kept("is a date");
        }
        int[] years = sample.values().stream()
                .filter(TemporalAccessor.class::isInstance)
                .map(TemporalAccessor.class::cast)
                .filter(value -> value.isSupported(ChronoField.YEAR))
                .mapToInt(value -> value.get(ChronoField.YEAR))
                .sorted()
                .toArray();
        if (years.length == 0) {
            return Finding.kept("is a date");
        }
        int now = LocalDate.now(java.time.ZoneOffset.UTC).getYear();
        int middle = now - years[years.length / 2];
        boolean ages = years[0] > now - 115 && years[years.length - 1] <= now && middle >= 12 && middle <= 90;
        return ages && years[years.length - 1] - years[0] >= 20
                ? Finding.masked(Personal.BIRTH, "holds days that lie like dates of birth")
                : Finding.kept("is a date");
    }

    private Finding bytes() {
        if (byName.filter(kind -> kind == Personal.PICTURE || kind == Personal.SECRET)
                .isPresent()) {
            return named(byName.get());
        }
        for (Object value : sample.values()) {
            if (value instanceof byte[] bytes
                    && ContentSigns.holdsPersonal(new String(bytes, StandardCharsets.ISO_8859_1))) {
                return Finding.undecided("holds bytes with something that looks personal in them");
            }
        }
        return besidePersons && PersonalWords.of(place.name()).isPresent()
                ? named(PersonalWords.of(place.name()).get())
                : Finding.kept("is bytes");
    }

    /** Types that only one database has: what cannot be told from a text is left to a person. */
    private Finding other() {
        if (sample.values().stream().anyMatch(value -> value instanceof String text && text.startsWith("<"))) {
            return sample.count(ContentSigns::holdsPersonal) > 0
                    ? Finding.undecided("is XML with something that looks personal in it")
                    : Finding.kept("is XML without a sign of persons");
        }
        if (sample.values().stream().anyMatch(value -> !(value instanceof String)) && byName.isPresent()) {
            return Finding.undecided("is " + place.column().type().sqlName() + ", and called " + place.name());
        }
        return bySigns()
                .or(this::byItsName)
                .orElse(Finding.kept("is " + place.column().type().sqlName()));
    }

    private Optional<Finding> bySigns() {
        for (Sign sign : SIGNS) {
            double share = sample.share(sign.test());
            boolean few = sign.enough() >= MOST && sample.count(sign.test()) < 3 && byName.isEmpty();
            if (share >= sign.enough() && !few) {
                return Optional.of(Finding.masked(sign.kind(), "holds " + sign.what()));
            }
        }
        return Optional.empty();
    }

    private Finding text() {
        if (sample.isEmpty() && byName.isEmpty()) {
            return Finding.kept("is empty");
        }
        Optional<Finding> plain = bySigns().or(this::byItsName);
        if (plain.isPresent()) {
            return plain.get();
        }
        Optional<Finding> known = byContent();
        if (known.isPresent()) {
            return known.get();
        }
        long personal = sample.count(text -> ContentSigns.holdsPersonal(text)
                || ContentSigns.isEmail(text)
                || ContentSigns.isHashed(text)
                || ContentSigns.isMac(text));
        if (personal > 0) {
            return sample.words() >= WORDS_OF_FREE_TEXT
                    ? Finding.masked(Personal.FREE_TEXT, "is text with something personal in it")
                    : Finding.undecided("holds something that looks personal in " + personal + " of "
                            + sample.values().size() + " different values");
        }
        return Finding.kept("shows no sign of persons");
    }

    private Optional<Finding> byItsName() {
        Personal kind = byName.orElse(null);
        if (kind == null) {
            boolean name = PersonalWords.isName(place.name())
                    && (place.isBesidePersons() || PersonalWords.isAboutPersons(place.name()));
            return name
                    ? Optional.of(Finding.masked(Personal.NAME, "called " + place.name() + " beside persons"))
                    : Optional.empty();
        }
        return switch (kind) {
            case PLACE, COORDINATES ->
                besidePersons
                        ? Optional.of(Finding.masked(kind, "called " + place.name() + " beside persons"))
                        : Optional.empty();
            case FREE_TEXT ->
                sample.variety() > 0.5 || sample.words() >= WORDS_OF_FREE_TEXT
                        ? Optional.of(named(kind))
                        : Optional.empty();
            case SECRET ->
                PersonalWords.isDigest(place.name()) || (sample.words() >= WORDS_OF_FREE_TEXT)
                        ? Optional.empty()
                        : Optional.of(named(kind));
            case NETWORK -> // a version or a shelf mark may be called so; addresses have dots or colons
                sample.isEmpty() || sample.share(text -> text.contains(".") || text.contains(":")) >= MANY
                        ? Optional.of(named(kind))
                        : Optional.empty();
            case PICTURE -> besidePersons ? Optional.of(named(kind)) : Optional.empty();
            default -> Optional.of(named(kind));
        };
    }

    private Optional<Finding> byContent() {
        boolean named = PersonalWords.saysSomething(place.name());
        double names =
                sample.share(text -> ContentSigns.isWrittenLikeName(text) && PersonalWords.holdsCommonName(text));
        boolean thing = PersonalWords.isAboutThing(place.name()) || isAboutThings();
        if (names >= MANY && !(thing && names < MOST) && sample.values().size() > 1) {
            return Optional.of(Finding.masked(Personal.NAME, "holds common names of people"));
        }
        if (sample.share(ContentSigns::isNationalPhone) >= 0.5 && !isAboutThings()) {
            return Optional.of(Finding.masked(Personal.PHONE, "holds what is written like phone numbers"));
        }
        if (sample.share(ContentSigns::isCoordinates) >= 0.5 && besidePersons) {
            return Optional.of(Finding.masked(Personal.COORDINATES, "holds coordinates beside persons"));
        }
        if (!PersonalWords.isDigest(place.name())
                && sample.variety() > 0.5
                && sample.share(text -> ContentSigns.isHexadecimal(text) || ContentSigns.isToken(text)) >= 0.5) {
            return Optional.of(Finding.masked(Personal.SECRET, "holds what looks like tokens or keys"));
        }
        if (sample.share(PlaceJudgement::isWrittenDate) >= MOST
                && !PersonalWords.isDateOfThing(place.name())
                && (besidePersons || !named)) {
            return Optional.of(Finding.masked(Personal.BIRTH, "holds days that are written out"));
        }
        boolean freeText = sample.words() >= WORDS_OF_FREE_TEXT && sample.variety() > 0.5;
        if (freeText && !thing && (!named || besidePersons)) {
            return Optional.of(Finding.masked(Personal.FREE_TEXT, "is free text"));
        }
        return Optional.empty();
    }

    private boolean isAboutThings() {
        return !besidePersons && PersonalWords.isAboutThings(place.table().name());
    }

    private static boolean isWrittenDate(String text) {
        return text.matches("(19|20)\\d{2}-\\d{2}-\\d{2}|\\d{1,2}[./]\\d{1,2}[./](19|20)\\d{2}");
    }
}
