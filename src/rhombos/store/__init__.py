"""Projects, revisions, drafts and decisions in MariaDB. SQLAlchemy objects never leave this package."""
