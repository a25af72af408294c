package dev.zabbet.internal.mask;

/** What a personal value is. */
enum Personal {
    EMAIL("E-mail address"),
    PHONE("phone number"),
    NAME("person's name"),
    BIRTH("date of birth"),
    ADDRESS("postal address"),
    /** Only where it stands beside persons. */
    PLACE("place of an address"),
    DOCUMENT("number of a document or authority"),
    ACCOUNT("account or card number"),
    SECRET("secret"),
    NETWORK("network address"),
    /** Only where it stands beside persons. */
    COORDINATES("place on the map"),
    LOGIN("login"),
    SALARY("salary"),
    FREE_TEXT("free text"),
    PICTURE("picture of a person"),
    /** Asked for by name, or since it equals a masked value. */
    OTHER("personal value");

    private final String text;

    Personal(String text) {
        this.text = text;
    }

    /** Returns the words for it, which stand in the list of words too. */
    String text() {
        return text;
    }

    /** Tells whether it tells who somebody is, wherever it stands. */
    boolean identifies() {
        return switch (this) {
            case EMAIL, PHONE, NAME, DOCUMENT, ACCOUNT, SECRET, NETWORK, LOGIN, OTHER -> true;
            default -> false;
        };
    }
}
