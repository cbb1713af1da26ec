"""`husk-web`: starts the application, keeps its workshop safe, and lets people in."""

import argparse
import sys
from pathlib import Path

from mildhusk.launch import add_arguments, add_data, start
from mildhusk.settings import Settings, SettingsError, settings_of

_ROLES = ("owner", "maker", "apprentice", "guest", "tablet")


def main() -> int:
    """Do what was asked; returns the exit code."""
    try:
        settings = settings_of(sys.argv[1:])
    except SettingsError as error:
        print(f"husk-web: {error}", file=sys.stderr)
        return 1
    settings.take_effect()
    given = _arguments(settings)
    return start(given) if given.what == "start" else _keep(given)


def _arguments(settings: Settings) -> argparse.Namespace:
    parser = argparse.ArgumentParser(prog="husk-web", description=__doc__)
    sub = parser.add_subparsers(dest="what", required=True)
    add_arguments(sub.add_parser("start", help="start it; Ctrl-C ends it"), settings)
    work = sub.add_parser("work", help="work for the database at DATABASE_URL, elsewhere than it")
    work.add_argument(
        "--workers", type=_some, default=settings.workers, help="processes for long work"
    )
    work.add_argument("--settings", type=Path, help="a file (TOML) that sets what is not said")
    backup = sub.add_parser("backup", help="write an archive into a folder, and read it back")
    backup.add_argument("folder", type=Path)
    backup.add_argument(
        "--keep", type=_some, default=14, help="how many archives stay there, 14 by default"
    )
    add_data(backup, settings)
    verify = sub.add_parser("verify", help="restore an archive into a database thrown away after")
    verify.add_argument("file", type=Path)
    _add_key(verify)
    restore = sub.add_parser("restore", help="import an archive")
    restore.add_argument("file", type=Path)
    _add_key(restore)
    add_data(restore, settings)
    key = sub.add_parser("key", help="make a pair of keys that backups are encrypted with")
    key.add_argument("file", type=Path, help="a new file for the private key")
    invite = sub.add_parser("invite", help="print a link that lets somebody in, once")
    invite.add_argument("name", nargs="?", default="", help="whose; a known name: a new password")
    invite.add_argument("--role", choices=_ROLES, default="owner", help="owner unless it is said")
    add_data(invite, settings)
    return parser.parse_args()


def _add_key(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--key", type=Path, help="the private key's file, if it is encrypted")


def _some(text: str) -> int:
    number = int(text)
    if number < 1:
        raise argparse.ArgumentTypeError("give one at least")
    return number


def _keep(given: argparse.Namespace) -> int:
    from sqlalchemy.exc import SQLAlchemyError

    from mildhusk.backup import backup, restore, verify
    from mildhusk.cluster import ClusterError
    from mildhusk.core.errors import HuskError
    from mildhusk.inviting import print_invitation
    from mildhusk.store.access_tables import Role

    try:
        if given.what == "backup":
            backup(given.folder, given.data, given.keep)
        elif given.what == "verify":
            verify(given.file, given.key)
        elif given.what == "key":
            _make_key(given.file)
        elif given.what == "work":
            from mildhusk.working import work_from_afar

            work_from_afar(given.workers)
        elif given.what == "invite":
            print_invitation(given.data, given.name, Role(given.role))
        else:
            restore(given.file, given.data, given.key)
    except KeyboardInterrupt:
        print("husk-web: stopped; nothing was changed.", file=sys.stderr)
        return 130
    except SQLAlchemyError as error:
        print(f"husk-web: the database does not answer: {error}".splitlines()[0], file=sys.stderr)
        return 1
    except (HuskError, ClusterError, OSError) as error:
        print(f"husk-web: {error}", file=sys.stderr)
        return 1
    return 0


def _make_key(file: Path) -> None:
    from mildhusk.sealing import write_key

    public = write_key(file)
    print(f"The private key is in {file}. Keep it away from this machine, a copy of it on paper:")
    print("without it no backup that is encrypted to it can ever be opened.")
    print("The public key is for the settings (backup_key) or for MILDHUSK_BACKUP_KEY:")
    print(public)


if __name__ == "__main__":
    sys.exit(main())
