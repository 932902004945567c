package org.holtra.service.reach;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatExceptionOfType;

import java.net.InetAddress;
import java.net.UnknownHostException;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class ReachTest {

    @ParameterizedTest
    @CsvSource({
        "127.0.0.1, LOCAL",
        "127.9.8.7, LOCAL",
        "::1, LOCAL",
        "::ffff:127.0.0.1, LOCAL",
        "64:ff9b::7f00:1, LOCAL",
        "2002:7f00:1::, LOCAL",
        "10.1.2.3, PRIVATE",
        "172.31.0.1, PRIVATE",
        "172.32.0.1, PUBLIC",
        "192.168.7.7, PRIVATE",
        "100.100.0.1, PRIVATE",
        "fd12:3456::1, PRIVATE",
        "203.0.113.9, PUBLIC",
        "2001:db8::1, PUBLIC",
    })
    void tellsHowFarAnAddressIs(String address, Reach reach) throws UnknownHostException {
        assertThat(Reach.neededFor(InetAddress.getByName(address))).isEqualTo(reach);
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "169.254.169.254",
                "fe80::1",
                "0.0.0.0",
                "::",
                "224.0.0.1",
                "ff02::1",
                "::ffff:169.254.169.254",
                "64:ff9b::a9fe:a9fe",
                "255.255.255.255"
            })
    void someAddressesAreOutOfReachWhateverIsSet(String address) throws UnknownHostException {
        assertThat(Reach.neededFor(InetAddress.getByName(address))).isNull();
        assertThatExceptionOfType(CheckedAddresses.OutOfReach.class)
                .isThrownBy(() -> new CheckedAddresses(Reach.LOCAL).resolve(address))
                .withMessageContaining("has an address that no outlet may reach");
    }

    @Test
    void aNameOfThisMachineIsOutOfReachUnlessThatIsSet() throws UnknownHostException {
        assertThatExceptionOfType(CheckedAddresses.OutOfReach.class)
                .isThrownBy(() -> new CheckedAddresses(Reach.PRIVATE).resolve("localhost"))
                .withMessage("localhost is an address of this machine itself, and outlets may reach public and private"
                        + " addresses only; HOLTRA_OUTLETS_REACH says how far they may");
        assertThat(new CheckedAddresses(Reach.LOCAL).resolve("localhost")).isNotEmpty();
    }
}
