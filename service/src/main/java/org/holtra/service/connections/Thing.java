package org.holtra.service.connections;

/** What a connection is the connection of. */
public record Thing(Sort sort, String name) {

    /** Whether messages come in or go out by it, or both. */
    public enum Sort {
        INLET("inlet"),
        OUTLET("outlet"),
        /** Shared by several. */
        CONNECTION("connection");

        private final String word;

        Sort(String word) {
            this.word = word;
        }

        public String word() {
            return word;
        }
    }

    public static Thing inlet(String name) {
        return new Thing(Sort.INLET, name);
    }

    public static Thing connection(String name) {
        return new Thing(Sort.CONNECTION, name);
    }

    public static Thing outlet(String name) {
        return new Thing(Sort.OUTLET, name);
    }
}
