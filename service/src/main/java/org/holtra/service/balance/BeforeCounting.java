package org.holtra.service.balance;

/**
 * Written down between taking counts of acknowledged messages from memory and adding them to the database's: where such
 * messages are that are not in the journal yet. So none of them is ever taken for missing.
 */
public interface BeforeCounting {

    /** @throws org.springframework.dao.DataAccessException if it could not be written; then nothing is counted */
    void tell();
}
